"""Running a function as another user, for the administrator: in a process that has become that
user.

What lies in a user's folder, or what a user's programs answer, is never read or written with the
administrator's rights. The process has a limit in time and in how much it may answer, and is ended
with all it started where it goes beyond.
"""

import logging
import os
import select
import signal
import subprocess
import time
from collections.abc import Callable, Sequence
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import NoReturn, TypeVar

import msgspec

from plucky_ledger.core.values.trouble import Trouble, TroubleCode
from plucky_ledger.linux.administrator import told_as_json, trouble_of
from plucky_ledger.linux.folders import Folders
from plucky_ledger.linux.users import (
    ADMINISTRATOR,
    become,
    groups_of,
    home_of,
    is_administrator,
    user_name,
)

T = TypeVar("T")
RUN = "/run/user"
PATH = "/usr/local/bin:/usr/bin:/bin"
ANSWERS_WITHIN_SECONDS = 60.0
MOST_BYTES = 16 << 20
"""Largest answer."""
MOST_SAID, ENDS_WITHIN_SECONDS = 1 << 16, 5.0
"""How much a program may say, and how long it may go on when it has closed what it says it on."""
_CHUNK = 1 << 16
_DONE, _IN_TROUBLE = b"+", b"-"
log = logging.getLogger(__name__)


def as_user(
    user: int,
    work: Callable[[Folders], T],
    kind: type[T],
    within_seconds: float = ANSWERS_WITHIN_SECONDS,
    most_bytes: int = MOST_BYTES,
) -> T:
    """What ``work`` returns, run as a user who is given their own folders.

    Raises:
        Trouble: what it raised; or the user has no home, or it did not answer in time, with too
            much, or with what is no ``kind``.
    """
    ours, theirs = os.pipe()
    child = os.fork()
    if child == 0:
        os.close(ours)
        _work_and_end(user, work, theirs)
    os.close(theirs)
    try:
        answer = _answer_of(ours, within_seconds, most_bytes)
    finally:
        os.close(ours)
        _end(child)
    if answer.startswith(_IN_TROUBLE):
        raise trouble_of(answer[1:], TroubleCode.USER_DID_NOT_ANSWER)
    try:
        if answer.startswith(_DONE):
            return msgspec.json.decode(answer[1:], type=kind)
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as error:
        log.warning("%s answered with what is none: %s", user_name(user), error)
    raise Trouble(TroubleCode.USER_DID_NOT_ANSWER, name=user_name(user))


def _answer_of(pipe: int, within_seconds: float, most_bytes: int) -> bytes:
    """All that came until the end; nothing where that is too much or takes too long."""
    deadline, answer = time.monotonic() + within_seconds, bytearray()
    while (left := deadline - time.monotonic()) > 0 and len(answer) <= most_bytes:
        if not select.select([pipe], [], [], left)[0]:
            break
        chunk = os.read(pipe, _CHUNK)
        if not chunk:
            return bytes(answer)
        answer += chunk
    log.warning("a user's process gave %d bytes and did not end", len(answer))
    return b""


def _end(child: int) -> None:
    """End the process with all it started."""
    for kill in (os.killpg, os.kill):
        with suppress(ProcessLookupError):
            kill(child, signal.SIGKILL)
    os.waitpid(child, 0)


def _work_and_end(user: int, work: Callable[[Folders], object], pipe: int) -> NoReturn:
    """The user's process: it ends here, whatever happens."""
    message = b""
    try:
        os.setsid()
        home = home_of(user)
        become(user)
        _take_the_environment(user, home)
        message = _DONE + msgspec.json.encode(work(Folders.of({}, home)))
    except Trouble as trouble:
        message = _IN_TROUBLE + told_as_json(trouble)
    except BaseException as error:  # noqa: BLE001 whatever it is, it is over with this process
        os.write(2, f"as user {user}: {error!r:.400}\n".encode("utf-8", "replace"))
    finally:
        with suppress(OSError):
            while message:
                message = message[os.write(pipe, message) :]
        os._exit(0)


def _take_the_environment(user: int, home: Path) -> None:
    theirs = environment_of(user, home)
    os.environ.clear()
    os.environ.update(theirs)
    os.chdir("/")


def environment_of(user: int, home: Path) -> dict[str, str]:
    """What a user's program finds, and nothing of the administrator's."""
    language = {name: os.environ[name] for name in ("LANG", "LANGUAGE") if name in os.environ}
    run = f"{RUN}/{user}"
    return language | {
        "HOME": str(home),
        "USER": user_name(user),
        "LOGNAME": user_name(user),
        "PATH": PATH,
        "XDG_RUNTIME_DIR": run,
        "DBUS_SESSION_BUS_ADDRESS": f"unix:path={run}/bus",
    }


@dataclass(frozen=True)
class Ended:
    """How a program ended."""

    status: int
    said: str
    """What it said; empty where that was too much, or it did not end."""


def run_as(user: int, command: Sequence[str], within_seconds: float) -> Ended:
    """Run a program as a user, with their rights and in an environment of theirs, which is the same
    whether they have signed in or not: without their message bus, and what only that can tell. Who
    is no administrator runs it as who they are.

    Raises:
        Trouble: the user has no home.
        OSError: it cannot be run.
    """
    administrator = is_administrator() and user != ADMINISTRATOR
    groups = groups_of(user) if administrator else []
    environment = environment_of(user, home_of(user))
    del environment["DBUS_SESSION_BUS_ADDRESS"]
    ours, theirs = os.pipe()
    try:
        process = subprocess.Popen(
            command,
            user=user if administrator else None,
            group=groups[0] if administrator else None,
            extra_groups=groups if administrator else None,
            env=environment,
            cwd="/",
            stdin=subprocess.DEVNULL,
            stdout=theirs,
            stderr=theirs,
            start_new_session=True,
        )
    except BaseException:
        os.close(ours)
        raise
    finally:
        os.close(theirs)
    try:
        said = _answer_of(ours, within_seconds, MOST_SAID)
        with suppress(subprocess.TimeoutExpired):
            process.wait(ENDS_WITHIN_SECONDS)
    finally:
        os.close(ours)
        with suppress(ProcessLookupError):  # it, and what it has left behind
            os.killpg(process.pid, signal.SIGKILL)
        status = process.wait()
    return Ended(status, said.decode("utf-8", "replace").strip())
