"""Asking over D-Bus: many questions at once, every answer checked, nothing waited for for ever."""

import time
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from typing import Any

ANSWER_WITHIN_SECONDS = 5.0
AT_ONCE = 64
"""Questions sent before answers are read: more would fill the sockets' buffers."""


class NoAnswer(Exception):
    """The bus or the service on it did not answer; the text says what happened."""


class Bus:
    """One connection to a message bus.

    Raises NoAnswer from every call: no bus, no such service, an error in reply, or time was up.
    """

    def __init__(self, connection: Any, seconds: float) -> None:  # noqa: ANN401 jeepney has no types
        self._connection = connection
        self._seconds = seconds
        self.round_trips = 0
        """How often answers were waited for."""

    def properties(self, service: str, path: str, interface: str) -> dict[str, Any]:
        """All properties of one object."""
        return self.properties_of_all(service, [path], [interface])[0]

    def properties_of_all(
        self, service: str, paths: Sequence[str], interfaces: Sequence[str]
    ) -> list[dict[str, Any]]:
        """All properties of many objects, those of several interfaces together.

        The questions are sent in batches, and the answers gathered as they come. An object that
        has vanished meanwhile gives no properties.
        """
        from jeepney import DBusAddress, Properties

        questions = [
            Properties(DBusAddress(path, bus_name=service, interface=interface)).get_all()
            for path in paths
            for interface in interfaces
        ]
        answers = self._ask_all(questions)
        found: list[dict[str, Any]] = []
        for at in range(0, len(answers), len(interfaces)):
            merged: dict[str, Any] = {}
            for answer in answers[at : at + len(interfaces)]:
                if answer is not None:
                    merged.update({name: value for name, (_kind, value) in answer[0].items()})
            found.append(merged)
        return found

    def call(self, service: str, path: str, interface: str, method: str) -> tuple[Any, ...]:
        """Call a method without arguments."""
        from jeepney import DBusAddress, new_method_call

        address = DBusAddress(path, bus_name=service, interface=interface)
        (answer,) = self._ask_all([new_method_call(address, method)], lenient=False)
        return answer or ()

    def _ask_all(self, questions: Sequence[Any], lenient: bool = True) -> list[Any]:
        answers: list[Any] = []
        for at in range(0, len(questions), AT_ONCE):
            answers.extend(self._ask_batch(questions[at : at + AT_ONCE], lenient))
        if lenient and questions and not any(answer is not None for answer in answers):
            raise NoAnswer("the service on the bus answered with errors only")
        return answers

    def _ask_batch(self, questions: Sequence[Any], lenient: bool) -> list[Any]:
        from jeepney import HeaderFields, MessageType

        serials = []
        with _plainly():
            for question in questions:
                serial = next(self._connection.outgoing_serial)
                self._connection.send(question, serial=serial)
                serials.append(serial)
        waiting = set(serials)
        answers: dict[int, Any] = {}
        deadline = time.monotonic() + self._seconds
        self.round_trips += 1
        while waiting:
            left = deadline - time.monotonic()
            if left <= 0:
                raise NoAnswer(f"no answer within {self._seconds:g} s")
            with _plainly():
                message = self._connection.receive(timeout=left)
            serial = message.header.fields.get(HeaderFields.reply_serial)
            if serial not in waiting:
                continue
            waiting.discard(serial)
            failed = message.header.message_type is MessageType.error
            if failed and not lenient:
                raise NoAnswer(str(message.header.fields.get(HeaderFields.error_name, "error")))
            answers[serial] = None if failed else message.body
        return [answers[serial] for serial in serials]


@contextmanager
def opened(address: str, seconds: float = ANSWER_WITHIN_SECONDS) -> Iterator[Bus]:
    """A connection to the bus at ``address``, or to the "SYSTEM" or "SESSION" bus."""
    try:
        from jeepney.io.blocking import open_dbus_connection
    except ImportError as error:
        raise NoAnswer("the D-Bus package is not installed") from error
    with _plainly():
        connection = open_dbus_connection(bus=address)
    try:
        yield Bus(connection, seconds)
    finally:
        connection.close()


@contextmanager
def _plainly() -> Iterator[None]:
    """Whatever the bus library raises becomes one kind of error: its own share no base class."""
    try:
        yield
    except TimeoutError as error:
        raise NoAnswer("time was up") from error
    except (FileNotFoundError, KeyError, ConnectionRefusedError) as error:
        raise NoAnswer("no message bus is running") from error
    except OSError as error:
        raise NoAnswer(error.strerror or "the connection broke") from error
    except Exception as error:
        raise NoAnswer(f"it answered in a way that cannot be read: {error}") from error
