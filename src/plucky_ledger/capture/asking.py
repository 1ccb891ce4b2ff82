"""Asking other programs in a process of its own: bounded in time and size, ended at any moment.

A service manager, a journal or a package database may be slow, silent or broken, and a recording
has to end whole all the same. What was answered before the limit is kept.
"""

import os
import resource
import select
import signal
import sys
import time
from collections.abc import Callable, Iterable
from dataclasses import dataclass

import msgspec

from plucky_ledger.core.reasons import ReasonCode
from plucky_ledger.recording.lines import Line, Said, said

MOST_BYTES = 2_000_000
"""Of all lines of one answer."""
MOST_MEMORY_BYTES = 512_000_000
"""What asking may take beyond what this process has."""
LOOK_AGAIN_SECONDS = 0.1
CHUNK = 1 << 16
_COMPLETE, _FAILED = 0, 1

GoingOn = Callable[[], bool]


@dataclass(frozen=True)
class Answer:
    """What was answered, and why that is not all; None where it is."""

    lines: list[Line]
    missing: Said | None = None


def ask(work: Callable[[], Iterable[Line]], seconds: float, going_on: GoingOn) -> Answer:
    """Lines that ``work`` gives within so many seconds, or until ``going_on`` says no.

    Lines that no recording may hold are left out.
    """
    ours, theirs = os.pipe()
    process = os.fork()
    if process == 0:
        os.close(ours)
        _answer_and_end(work, theirs)
    os.close(theirs)
    try:
        data, missing = _received(ours, time.monotonic() + seconds, seconds, going_on)
    finally:
        os.close(ours)
        _end(process)
    lines, odd = _decoded(data)
    if missing is None and odd:
        missing = said(ReasonCode.UNREADABLE_ANSWER, told="")
    return Answer(lines, missing)


def _answer_and_end(work: Callable[[], Iterable[Line]], descriptor: int) -> None:
    """The process that asks: it ends here, whatever happens."""
    status = _FAILED
    try:
        os.setsid()
        signal.signal(signal.SIGTERM, signal.SIG_DFL)
        signal.signal(signal.SIGINT, signal.SIG_IGN)
        _limit_memory()
        encoder = msgspec.json.Encoder()
        with os.fdopen(descriptor, "wb") as pipe:
            for line in work():
                pipe.write(encoder.encode(line) + b"\n")
                pipe.flush()
            pipe.write(b"\n")  # an empty line: that was all
        status = _COMPLETE
    except BaseException as error:  # noqa: BLE001 whatever it is, it is over with this process
        sys.stderr.write(f"asking: {error!r:.400}\n")
        sys.stderr.flush()
    finally:
        os._exit(status)


def _limit_memory() -> None:
    with open("/proc/self/statm", "rb") as file:
        pages = int(file.read().split()[0])
    most = pages * os.sysconf("SC_PAGE_SIZE") + MOST_MEMORY_BYTES
    resource.setrlimit(resource.RLIMIT_AS, (most, most))


def _received(
    descriptor: int, deadline: float, seconds: float, going_on: GoingOn
) -> tuple[bytes, Said | None]:
    """What came, and why that is not all."""
    data = bytearray()
    poll = select.poll()
    poll.register(descriptor, select.POLLIN)
    while True:
        if not going_on():
            return bytes(data), said(ReasonCode.ASKING_STOPPED)
        if time.monotonic() > deadline:
            return bytes(data), said(ReasonCode.TIME_UP, seconds=seconds)
        if not poll.poll(LOOK_AGAIN_SECONDS * 1000):
            continue
        chunk = os.read(descriptor, CHUNK)
        if not chunk:
            whole = data.endswith(b"\n\n") or data == b"\n"
            return bytes(data), None if whole else said(ReasonCode.UNREADABLE_ANSWER, told="")
        data += chunk
        if len(data) > MOST_BYTES:
            return bytes(data[:MOST_BYTES]), said(ReasonCode.ANSWER_TOO_LARGE)


def _end(process: int) -> None:
    """End the process and what it started."""
    for kill in (os.killpg, os.kill):
        try:
            kill(process, signal.SIGKILL)
        except ProcessLookupError:
            continue
    os.waitpid(process, 0)


def _decoded(data: bytes) -> tuple[list[Line], int]:
    """Whole lines that a recording may hold, and how many others there were."""
    decoder = msgspec.json.Decoder(Line)
    lines: list[Line] = []
    odd = 0
    for part in data.split(b"\n")[:-1]:
        if not part:
            continue
        try:
            lines.append(decoder.decode(part))
        except (msgspec.DecodeError, UnicodeDecodeError):
            odd += 1
    return lines, odd
