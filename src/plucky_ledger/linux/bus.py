"""D-Bus calls: many at once, every answer checked, with a time limit."""

import logging
import time
from collections import deque
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any

from plucky_ledger.core.values.reasons import Reason, ReasonCode

ANSWER_WITHIN_SECONDS = 30.0
"""Longest silence: a slow PC that starts takes its time, and goes on answering."""
AUTHORISED_WITHIN_SECONDS = 120.0
"""A person may have to type a password before the answer comes."""
AT_ONCE = 64
"""Questions sent before answers are read: more would fill the sockets' buffers."""
MOST_SIGNALS = 1_000
"""Signals kept until somebody asks for them; older ones are let go."""
log = logging.getLogger(__name__)


class NoAnswer(Exception):
    """The bus or the service on it did not answer. An ordinary answer of a PC, with a reason."""

    def __init__(self, code: ReasonCode, **facts: str | float) -> None:
        super().__init__(code, facts)
        self.reason = Reason(code, facts)


@dataclass(frozen=True)
class Address:
    """One interface of one object of a service on the bus."""

    service: str
    path: str
    interface: str


@dataclass(frozen=True)
class _Answer:
    signature: str
    body: tuple[Any, ...]


@dataclass(frozen=True)
class Heard:
    """One signal."""

    path: str
    interface: str
    member: str
    body: tuple[Any, ...]


class Bus:
    """One connection to a message bus.

    Raises NoAnswer from every call: no bus, no such service, an error in reply, or time was up.
    """

    def __init__(self, connection: Any, seconds: float) -> None:  # noqa: ANN401 jeepney has no types
        self._connection = connection
        self._seconds = seconds
        self._signals: deque[Heard] = deque(maxlen=MOST_SIGNALS)
        self.round_trips = 0
        """How often answers were waited for."""
        self.broken_off: Reason | None = None
        """Why not all of many questions were answered; None where they were."""

    def properties(self, address: Address, types: Mapping[str, str]) -> dict[str, Any]:
        """Properties of one interface of an object, of these names and D-Bus types."""
        answers = self.properties_of_all(
            address.service, [address.path], [address.interface], types
        )
        return answers[0]

    def properties_of_all(
        self,
        service: str,
        paths: Sequence[str],
        interfaces: Sequence[str],
        types: Mapping[str, str],
    ) -> list[dict[str, Any]]:
        """All properties of many objects, those of several interfaces together.

        The questions are sent in batches, and the answers gathered for as long as they keep coming.
        An object that has vanished meanwhile gives no properties, nor do those whose answers did
        not come: ``broken_off`` says why.
        """
        from jeepney import DBusAddress, Properties

        questions = [
            Properties(DBusAddress(path, bus_name=service, interface=interface)).get_all()
            for path in paths
            for interface in interfaces
        ]
        answers = self._ask_all(questions)
        properties: list[dict[str, Any]] = []
        for at in range(0, len(answers), len(interfaces)):
            merged: dict[str, Any] = {}
            for answer in answers[at : at + len(interfaces)]:
                if answer is not None and answer.signature == "a{sv}":
                    merged.update(
                        (name, value)
                        for name, (kind, value) in answer.body[0].items()
                        if types.get(name) == kind
                    )
            properties.append(merged)
        return properties

    def call(
        self,
        address: Address,
        method: str,
        signature: str = "",
        arguments: tuple[Any, ...] = (),
        *,
        returns: str | None = None,
        seconds: float | None = None,
        authorise: bool = False,
    ) -> tuple[Any, ...]:
        """Call a method; ``signature`` says of which D-Bus types its arguments are.

        An answer of other types than it ``returns`` is none.

        ``authorise`` lets the service ask whoever sits at the PC for authorisation; the answer is
        then waited for as long as a person needs, unless ``seconds`` says otherwise.
        """
        from jeepney import DBusAddress, MessageFlag, new_method_call

        target = DBusAddress(address.path, bus_name=address.service, interface=address.interface)
        question = new_method_call(target, method, signature or None, arguments)
        if authorise:
            question.header.flags |= MessageFlag.allow_interactive_authorization
            seconds = AUTHORISED_WITHIN_SECONDS if seconds is None else seconds
        try:
            (answer,) = self._ask_batch([question], lenient=False, seconds=seconds)
        except NoAnswer as refusal:
            log.warning("%s of %s: %s", method, address.service, refusal.reason)
            raise
        assert answer is not None  # errors were raised
        if returns is not None and answer.signature != returns:
            raise NoAnswer(ReasonCode.UNREADABLE_ANSWER, told=answer.signature)
        return answer.body

    def listen(self, address: Address, member: str) -> None:
        """From now on keep this signal for ``heard``."""
        from jeepney import MatchRule, MessageType

        rule = MatchRule(
            type=MessageType.signal,
            sender=address.service,
            path=address.path,
            interface=address.interface,
            member=member,
        )
        self.call(_THE_BUS, "AddMatch", "s", (rule.serialise(),))

    def heard(self, seconds: float) -> Heard | None:
        """The next signal listened for, waiting so long for it; None when none came."""
        deadline = time.monotonic() + seconds
        while not self._signals and (left := deadline - time.monotonic()) > 0:
            try:
                with _plainly(seconds):
                    self._keep_signal(self._connection.receive(timeout=left))
            except NoAnswer as reason:
                if reason.reason.code is not ReasonCode.TIME_UP:
                    raise
        return self._signals.popleft() if self._signals else None

    def _ask_all(self, questions: Sequence[Any]) -> list["_Answer | None"]:
        answers: list[_Answer | None] = []
        for at in range(0, len(questions), AT_ONCE):
            if self.broken_off is None:
                answers.extend(self._ask_batch(questions[at : at + AT_ONCE], lenient=True))
        if questions and not any(answer is not None for answer in answers):
            why = self.broken_off or Reason(ReasonCode.ONLY_ERRORS)
            raise NoAnswer(why.code, **why.facts)
        return [*answers, *[None] * (len(questions) - len(answers))]

    def _ask_batch(
        self, questions: Sequence[Any], lenient: bool, seconds: float | None = None
    ) -> list["_Answer | None"]:
        from jeepney import HeaderFields, MessageType

        limit = self._seconds if seconds is None else seconds
        serials = []
        with _plainly(limit):
            for question in questions:
                serial = next(self._connection.outgoing_serial)
                self._connection.send(question, serial=serial)
                serials.append(serial)
        waiting = set(serials)
        answers: dict[int, _Answer | None] = {}
        deadline = time.monotonic() + limit
        self.round_trips += 1
        while waiting:
            try:
                message = self._message(deadline, limit)
            except NoAnswer as silence:
                if not lenient:
                    raise
                self.broken_off = silence.reason
                break
            serial = message.header.fields.get(HeaderFields.reply_serial)
            if serial not in waiting:
                self._keep_signal(message)
                continue
            waiting.discard(serial)
            if lenient:
                deadline = time.monotonic() + limit
            failed = message.header.message_type is MessageType.error
            if failed and not lenient:
                name = str(message.header.fields.get(HeaderFields.error_name, "error"))
                raise NoAnswer(ReasonCode.ERROR_REPLY, name=name)
            signature = str(message.header.fields.get(HeaderFields.signature, ""))
            answers[serial] = None if failed else _Answer(signature, message.body or ())
        return [answers.get(serial) for serial in serials]

    def _message(self, deadline: float, limit: float) -> Any:  # noqa: ANN401 jeepney has no types
        """The next message. Raises NoAnswer."""
        left = deadline - time.monotonic()
        if left <= 0:
            raise NoAnswer(ReasonCode.TIME_UP, seconds=limit)
        with _plainly(limit):
            return self._connection.receive(timeout=left)

    def _keep_signal(self, message: Any) -> None:  # noqa: ANN401 jeepney has no types
        from jeepney import HeaderFields, MessageType

        if message.header.message_type is MessageType.signal:
            fields = message.header.fields
            path, interface, member = (
                str(fields.get(name, ""))
                for name in (HeaderFields.path, HeaderFields.interface, HeaderFields.member)
            )
            if interface != _THE_BUS.interface:
                self._signals.append(Heard(path, interface, member, tuple(message.body)))


_THE_BUS = Address("org.freedesktop.DBus", "/org/freedesktop/DBus", "org.freedesktop.DBus")


@contextmanager
def opened(address: str, seconds: float = ANSWER_WITHIN_SECONDS) -> Iterator[Bus]:
    """A connection to the bus at ``address``, or to the "SYSTEM" or "SESSION" bus."""
    try:
        from plucky_ledger.linux.bus_connection import connect
    except ImportError as error:
        raise NoAnswer(ReasonCode.NO_BUS_PACKAGE) from error
    with _plainly(seconds):
        connection = connect(address, seconds)
    try:
        yield Bus(connection, seconds)
    finally:
        connection.close()


@contextmanager
def _plainly(seconds: float) -> Iterator[None]:
    """Whatever the bus library raises becomes one kind of error: its own share no base class.

    ``seconds`` is how long was waited when time was up.
    """
    try:
        yield
    except TimeoutError as error:
        raise NoAnswer(ReasonCode.TIME_UP, seconds=seconds) from error
    except (FileNotFoundError, KeyError, ConnectionRefusedError) as error:
        raise NoAnswer(ReasonCode.NO_BUS) from error
    except OSError as error:
        raise NoAnswer(ReasonCode.BROKEN_CONNECTION, system=error.strerror or "") from error
    except Exception as error:
        raise NoAnswer(ReasonCode.UNREADABLE_ANSWER, told=str(error)[:200]) from error
