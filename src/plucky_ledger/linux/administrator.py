"""Running a command as administrator, in a process of its own.

An ordinary user who may become administrator is asked once, by the system's own means. What is
requested is one word; what belongs to it goes to the process's standard input, where no list of
processes shows it. What became of it comes back as bytes or as trouble.
"""

import logging
import os
import select
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Callable, Mapping
from pathlib import Path

import msgspec

from plucky_ledger.core.values.reasons import Fact, Reason
from plucky_ledger.core.values.trouble import Refused, Trouble, TroubleCode
from plucky_ledger.linux.trusted_files import only_the_administrator_changes
from plucky_ledger.linux.users import ADMINISTRATOR, is_administrator

IN_TROUBLE = 3
"""Exit status: what is the matter stands in the output."""
WITHIN_SECONDS = 300.0
"""How long somebody may take to be the administrator."""
SUDO_ANSWERS_WITHIN = 5.0
ADMINISTER = "lib/plucky-ledger/administer"
"""Below where we are installed: a program that carries a request out, which actions of polkit(8) of
our own are about, so that who is asked reads what for.
"""
WHO_ASKS = ("PKEXEC_UID", "SUDO_UID")
"""Where `sudo` and `pkexec` say which user asked."""
OWN_PROMPT = "Password of %p: "
"""What `sudo` asks with, in place of its own words."""
log = logging.getLogger(__name__)

MOST_ORDER_BYTES = 1 << 20
"""Largest order that the administrator's process reads."""
CarryOut = Callable[[str, bytes, Mapping[str, str]], bytes]
"""Does what is requested, by its order; told the environment of who asked."""


class _TroubleMessage(msgspec.Struct, frozen=True):
    """Trouble on its way from the administrator's process to ours."""

    code: TroubleCode
    facts: "dict[str, Fact | _TroubleMessage]"
    because: tuple[Reason, ...] = ()

    @classmethod
    def of(cls, trouble: Trouble) -> "_TroubleMessage":
        """What is sent of trouble: all of it, with the trouble that it tells of."""
        facts = {
            name: cls.of(fact) if isinstance(fact, Trouble) else fact
            for name, fact in trouble.facts.items()
        }
        return cls(trouble.code, facts, trouble.because)

    def trouble(self) -> Trouble:
        """The trouble that was sent."""
        facts = {
            name: fact.trouble() if isinstance(fact, _TroubleMessage) else fact
            for name, fact in self.facts.items()
        }
        return Trouble(self.code, self.because, **facts)


def answered(carry_out: CarryOut, request: str, order: bytes = b"") -> bytes:
    """What the administrator answers; here at once, where we are it. Raises Trouble."""
    if is_administrator():
        return carry_out(request, order, {})
    return ask_the_administrator(request, order)


def who_asks(environment: Mapping[str, str]) -> int | None:
    """The user who asked the administrator; None where nobody had to be asked."""
    named = (environment[name] for name in WHO_ASKS if environment.get(name, "").isdecimal())
    return next((int(user) for user in named if int(user) != ADMINISTRATOR), None)


def read_order() -> bytes:
    """From the administrator's process: the order that goes with the request.

    Raises ValueError where it is larger than any order.
    """
    order = sys.stdin.buffer.read(MOST_ORDER_BYTES + 1)
    if len(order) > MOST_ORDER_BYTES:
        raise ValueError("the order is too large")
    return order


def ask_the_administrator(request: str, order: bytes = b"") -> bytes:
    """What the administrator answers.

    Raises:
        Refused: nobody here may become administrator, or whoever was asked did not.
        Trouble: the administrator could not do it.
    """
    command = _command(request)
    try:
        answer = subprocess.run(
            command,
            input=order,
            capture_output=True,
            check=False,
            timeout=WITHIN_SECONDS,
        )
    except (OSError, subprocess.TimeoutExpired) as error:
        raise Refused(TroubleCode.NOT_THE_ADMINISTRATOR) from error
    return _checked(answer.returncode, answer.stdout, answer.stderr)


def follow_the_administrator(told: Callable[[bytes], bool], request: str) -> bytes:
    """What the administrator answers in the end; ``told`` gets every line before, and returns False
    to have the work ended: then the answer is about what was done until then.

    Raises:
        Refused: nobody here may become administrator, or whoever was asked did not.
        Trouble: the administrator could not do it.
    """
    command = _command(request)
    with tempfile.TemporaryFile() as complaints:
        try:
            process = subprocess.Popen(
                command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=complaints
            )
        except OSError as error:
            raise Refused(TroubleCode.NOT_THE_ADMINISTRATOR) from error
        answer = _followed(process, told)
        complaints.seek(0)
        return _checked(process.returncode, answer, complaints.read())


def _followed(process: "subprocess.Popen[bytes]", told: Callable[[bytes], bool]) -> bytes:
    """The last line of what a process says; ``told`` gets those before."""
    answer = b""
    with process:
        assert process.stdin is not None
        assert process.stdout is not None
        for line in process.stdout:
            if answer and not process.stdin.closed and not told(answer):
                process.stdin.close()  # who is the administrator cannot be sent a signal
            answer = line
    return answer


def _command(request: str) -> list[str]:
    log.info("asking the administrator: %s", request)
    installed = Path(sys.prefix) / ADMINISTER
    if only_the_administrator_changes(installed):
        return [*_becoming(), str(installed), request]
    return [*_becoming(), sys.executable, "-I", "-m", "plucky_ledger", "administer", request]


def _checked(status: int, answer: bytes, complaints: bytes) -> bytes:
    """The answer, unless it tells of trouble. Raises Trouble.

    ``complaints`` are in the words of the program that was to make us the administrator: they go
    into the log, and nobody reads them here.
    """
    if complaints.strip():
        log.warning("the administrator: %s", complaints.decode("utf-8", "replace").strip())
    if status == IN_TROUBLE:
        raise trouble_of(answer, TroubleCode.NOT_THE_ADMINISTRATOR)
    if status != 0:
        raise Refused(TroubleCode.NOT_THE_ADMINISTRATOR)
    return answer


def tell_who_asked(line: bytes) -> bool:
    """From the administrator's process: a line for who follows; False where they want no more."""
    sys.stdout.buffer.write(line + b"\n")
    sys.stdout.buffer.flush()
    readable, _, _ = select.select([sys.stdin], [], [], 0)
    return not readable


def _becoming() -> list[str]:
    """The program that makes us the administrator.

    It asks somebody at the PC, on a screen or here, where nobody has to be asked not even that.
    """
    sudo = shutil.which("sudo")
    if sudo and _may_at_once(sudo):
        return [sudo, "-n"]
    own_words = {"sudo": ["-p", OWN_PROMPT]}
    programs = ["pkexec"]
    if os.isatty(0):
        on_a_screen = any(os.environ.get(name) for name in ("DISPLAY", "WAYLAND_DISPLAY"))
        programs.insert(len(programs) if on_a_screen else 0, "sudo")
    for program in programs:
        if path := shutil.which(program):
            return [path, *own_words.get(program, [])]
    raise Refused(TroubleCode.NO_ADMINISTRATOR)


def _may_at_once(sudo: str) -> bool:
    """Whether nobody has to be asked; a sign-in server that does not answer is no yes."""
    try:
        tried = subprocess.run(
            [sudo, "-n", "true"], capture_output=True, check=False, timeout=SUDO_ANSWERS_WITHIN
        )
    except (OSError, subprocess.TimeoutExpired):
        return False
    return tried.returncode == 0


def trouble_of(answer: bytes, otherwise: TroubleCode) -> Trouble:
    """Trouble that another process told; one of its own where that is none."""
    try:
        return msgspec.json.decode(answer, type=_TroubleMessage).trouble()
    except (msgspec.DecodeError, ValueError, RecursionError):
        return Refused(otherwise)


def told_as_json(trouble: Trouble) -> bytes:
    """Trouble for the process that asked."""
    return msgspec.json.encode(_TroubleMessage.of(trouble))
