"""Queries in a child process: limited in time and size, and stopped at any moment.

A service manager, a journal or a package database may be slow, silent or broken, and a recording
has to end whole all the same. What was answered before the limit is kept.
"""

import os
import resource
import select
import signal
import sys
import threading
import time
from collections.abc import Callable, Iterable
from dataclasses import dataclass

import msgspec

from plucky_ledger.core.values.reasons import ReasonCode
from plucky_ledger.recording.lines import Line, Said, said

MOST_BYTES = 1_600_000
"""Limit on the bytes of all lines of one answer."""
MOST_MEMORY_BYTES = 512_000_000
"""Memory limit of the child, beyond what this process has."""
LOOK_AGAIN_SECONDS = 0.1
OUTLIVES_SECONDS = 0.5
"""Seconds the child may outlive its recorder: querying takes time from the PC that starts."""
CHUNK = 1 << 16
LEAST_URGENT = 19
"""Nice value of the child: whatever starts comes first."""
_COMPLETE, _FAILED = 0, 1

_DECODER = msgspec.json.Decoder(Line)

GoingOn = Callable[[], bool]


@dataclass(frozen=True)
class InquiryAnswer:
    """The answer, and why it is incomplete; None where it is complete."""

    lines: list[Line]
    missing: Said | None = None


class Inquiry:
    """A query running in a child process. Its lines can be taken as they come."""

    def __init__(self, work: Callable[[], Iterable[Line]]) -> None:
        ours, theirs = os.pipe()
        asker = os.getpid()
        self._process = os.fork()
        if self._process == 0:
            os.close(ours)
            _answer_and_end(work, theirs, asker)
        os.close(theirs)
        os.set_blocking(ours, False)
        self._pipe: int | None = ours
        self._poll = select.poll()
        self._poll.register(ours, select.POLLIN)
        self._rest, self._taken, self._odd = b"", 0, 0
        self.over = False
        self.missing: Said | None = None
        """Why the answer is incomplete; None where it is complete, or still coming."""

    def take(self, within_seconds: float = 0.0) -> list[Line]:
        """Lines received so far, after waiting this many seconds for more. Lines that no recording
        may hold are left out.
        """
        if self._pipe is None or not self._poll.poll(within_seconds * 1000):
            return []
        data = os.read(self._pipe, CHUNK)
        self._taken += len(data)
        *whole, self._rest = (self._rest + data).split(b"\n")
        lines = self._decoded(whole)
        if self._taken > MOST_BYTES:
            self._end(said(ReasonCode.ANSWER_TOO_LARGE))
        elif not data or (b"" in whole and self._odd):
            self._end(said(ReasonCode.UNREADABLE_ANSWER, told=""))
        elif b"" in whole:  # the end of the answer
            self._end(None)
        return lines

    def _decoded(self, parts: list[bytes]) -> list[Line]:
        lines: list[Line] = []
        for part in filter(None, parts):
            try:
                lines.append(_DECODER.decode(part))
            except (msgspec.DecodeError, UnicodeDecodeError):
                self._odd += 1
        return lines

    def stop(self, why: Said | None) -> None:
        """Kill the child at once, with all it started."""
        if not self.over:
            self._end(why)

    def _end(self, missing: Said | None) -> None:
        self.over, self.missing = True, missing
        assert self._pipe is not None
        os.close(self._pipe)
        self._pipe = None
        for kill in (os.killpg, os.kill):
            try:
                kill(self._process, signal.SIGKILL)
            except ProcessLookupError:
                continue
        os.waitpid(self._process, 0)


def ask(work: Callable[[], Iterable[Line]], seconds: float, going_on: GoingOn) -> InquiryAnswer:
    """Lines that ``work`` gives within so many seconds, or until ``going_on`` says no.

    Lines that no recording may hold are left out.
    """
    inquiry = Inquiry(work)
    deadline = time.monotonic() + seconds
    lines: list[Line] = []
    while not inquiry.over:
        if not going_on():
            inquiry.stop(said(ReasonCode.ASKING_STOPPED))
        elif time.monotonic() > deadline:
            inquiry.stop(said(ReasonCode.TIME_UP, seconds=seconds))
        else:
            lines.extend(inquiry.take(LOOK_AGAIN_SECONDS))
    return InquiryAnswer(lines, inquiry.missing)


def _end_with(asker: int) -> None:
    """The parent may be killed outright: then the child has to end itself."""
    while os.getppid() == asker:
        time.sleep(OUTLIVES_SECONDS)
    os.killpg(0, signal.SIGKILL)


def _answer_and_end(work: Callable[[], Iterable[Line]], descriptor: int, asker: int) -> None:
    """Body of the child process: it ends here, whatever happens."""
    status = _FAILED
    try:
        os.setsid()
        os.setpriority(os.PRIO_PROCESS, 0, LEAST_URGENT)
        threading.Thread(target=_end_with, args=(asker,), daemon=True).start()
        signal.signal(signal.SIGTERM, signal.SIG_DFL)
        signal.signal(signal.SIGINT, signal.SIG_IGN)
        _limit_memory()
        encoder = msgspec.json.Encoder()
        with os.fdopen(descriptor, "wb") as pipe:
            for line in work():
                pipe.write(encoder.encode(line) + b"\n")
                pipe.flush()
            pipe.write(b"\n")  # an empty line ends the answer
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
