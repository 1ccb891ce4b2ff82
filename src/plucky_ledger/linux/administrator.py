"""Having the administrator do what only the administrator may, in a process of their own.

An ordinary user who may become administrator is asked once, by the system's own means. What was
wished goes there as words, what became of it comes back as bytes or as trouble.
"""

import logging
import os
import select
import shutil
import subprocess
import sys
from collections.abc import Callable, Mapping, Sequence

import msgspec

from plucky_ledger.core.trouble import Fact, Refused, Trouble, TroubleCode
from plucky_ledger.linux.users import is_administrator

IN_TROUBLE = 3
"""Exit status: what is the matter stands in the output."""
WITHIN_SECONDS = 300.0
"""How long somebody may take to be the administrator."""
SUDO_ANSWERS_WITHIN = 5.0
WHO_ASKS = ("PKEXEC_UID", "SUDO_UID")
"""Where `sudo` and `pkexec` say which user asked."""
log = logging.getLogger(__name__)

CarryOut = Callable[[Sequence[str], Mapping[str, str]], bytes]
"""Does what is wished, as the administrator, told the environment of who asked."""


class _Told(msgspec.Struct, frozen=True):
    """Trouble on its way from the administrator's process to ours."""

    code: str
    facts: dict[str, Fact]


def answered(carry_out: CarryOut, *wish: str) -> bytes:
    """What the administrator answers; here at once, where we are it. Raises Trouble."""
    return carry_out(wish, {}) if is_administrator() else ask_the_administrator(*wish)


def who_asks(environment: Mapping[str, str]) -> int | None:
    """The user who asked the administrator; None where nobody had to be asked."""
    return next((int(environment[name]) for name in WHO_ASKS if name in environment), None)


def ask_the_administrator(*wish: str) -> bytes:
    """What the administrator answers.

    Raises:
        Refused: nobody here may become administrator, or whoever was asked did not.
        Trouble: the administrator could not do it.
    """
    command = _command(wish)
    try:
        answer = subprocess.run(
            command, stdout=subprocess.PIPE, check=False, timeout=WITHIN_SECONDS
        )
    except (OSError, subprocess.TimeoutExpired) as error:
        raise Refused(TroubleCode.NOT_THE_ADMINISTRATOR) from error
    return _checked(answer.returncode, answer.stdout)


def follow_the_administrator(told: Callable[[bytes], bool], *wish: str) -> bytes:
    """What the administrator answers in the end; ``told`` gets every line before, and returns False
    to have the work ended: then the answer is about what was done until then.

    Raises:
        Refused: nobody here may become administrator, or whoever was asked did not.
        Trouble: the administrator could not do it.
    """
    command = _command(wish)
    try:
        process = subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE)
    except OSError as error:
        raise Refused(TroubleCode.NOT_THE_ADMINISTRATOR) from error
    answer = b""
    with process:
        assert process.stdin is not None
        assert process.stdout is not None
        for line in process.stdout:
            if answer and not process.stdin.closed and not told(answer):
                process.stdin.close()  # who is the administrator cannot be sent a signal
            answer = line
    return _checked(process.returncode, answer)


def _command(wish: Sequence[str]) -> list[str]:
    log.info("asking the administrator: %s", wish[0])
    return [*_becoming(), sys.executable, "-I", "-m", "plucky_ledger", "administer", *wish]


def _checked(status: int, answer: bytes) -> bytes:
    """The answer, unless it tells of trouble. Raises Trouble."""
    if status == IN_TROUBLE:
        raise _trouble_of(answer)
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
    programs = ["pkexec"]
    if os.isatty(0):
        on_a_screen = any(os.environ.get(name) for name in ("DISPLAY", "WAYLAND_DISPLAY"))
        programs.insert(len(programs) if on_a_screen else 0, "sudo")
    for program in programs:
        if path := shutil.which(program):
            return [path]
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


def _trouble_of(answer: bytes) -> Trouble:
    try:
        told = msgspec.json.decode(answer, type=_Told)
        return Trouble(TroubleCode(told.code)).with_facts(**told.facts)
    except (msgspec.DecodeError, ValueError):
        return Refused(TroubleCode.NOT_THE_ADMINISTRATOR)


def told_as_json(trouble: Trouble) -> bytes:
    """Trouble for the process that asked."""
    facts = {name: fact for name, fact in trouble.facts.items() if not isinstance(fact, Trouble)}
    return msgspec.json.encode(_Told(trouble.code.value, facts))
