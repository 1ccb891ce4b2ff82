"""The recorder: reads a PC's counters at even steps and appends them to a recording.

Imports the standard library and the recording's serialisation only: it has to be cheap at the
worst moment of the machine's life.
"""

import signal
import threading
import time
from collections.abc import Callable, Sequence
from types import FrameType

from plucky_ledger.capture.source import Clock, RecordingSource
from plucky_ledger.recording.lines import Line
from plucky_ledger.recording.writer import RecordingWriter

Listener = Callable[[Sequence[Line]], None]


class BootClock:
    """The real clock; SIGTERM or SIGINT ends the waiting, so that the recording ends whole."""

    def __init__(self) -> None:
        self._asked_to_stop = threading.Event()

    def now(self) -> float:
        return time.clock_gettime(time.CLOCK_BOOTTIME)

    def sleep_until(self, instant: float) -> bool:
        return not self._asked_to_stop.wait(max(0.0, instant - self.now()))

    def stop_on_signals(self) -> None:
        """Take SIGTERM and SIGINT as the wish to stop and keep."""
        for number in (signal.SIGTERM, signal.SIGINT):
            signal.signal(number, self._on_signal)

    def _on_signal(self, _number: int, _frame: FrameType | None) -> None:
        self._asked_to_stop.set()


def record(
    source: RecordingSource,
    clock: Clock,
    writer: RecordingWriter,
    for_seconds: float,
    interval_seconds: float = 1.0,
    listener: Listener | None = None,
) -> str:
    """Record ``source`` for ``for_seconds`` at steps of ``interval_seconds``.

    Returns why it ended. A step that comes too late is left out, not made up for.

    Raises:
        RecordingStopped: from the writer; what was written before is kept.

    """
    _emit(writer, listener, [source.header(), *source.opening_lines()])
    begin = clock.now()
    step, reason = begin, ""
    while not reason:
        _emit(writer, listener, source.sample())
        now = clock.now()
        missed = max(0.0, (now - step) // interval_seconds)
        step += interval_seconds * (1 + missed)
        if step > begin + for_seconds + 1e-9:
            reason = "time was up"
        elif not clock.sleep_until(step):
            reason = "stopped by hand"
    _emit(writer, listener, source.closing_lines())
    writer.finish(reason)
    return reason


def _emit(writer: RecordingWriter, listener: Listener | None, lines: Sequence[Line]) -> None:
    writer.write(lines)
    if listener:
        listener(lines)
