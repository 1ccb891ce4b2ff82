"""The recorder: reads a PC's counters at even steps and appends them to a recording.

Imports the standard library and the recording's serialisation only: it has to be cheap at the
worst moment of the machine's life.
"""

import signal
import time
from collections.abc import Callable, Container, Sequence

import msgspec

from plucky_ledger.capture.sampling.rest_watch import RestWatch
from plucky_ledger.capture.sampling.source import Clock, RecordingSource
from plucky_ledger.core.values.reasons import ReasonCode
from plucky_ledger.recording.deferred_writer import DeferredWriter
from plucky_ledger.recording.lines import Line, SampleLine
from plucky_ledger.recording.writer import RecordingWriter

Listener = Callable[[Sequence[Line]], None]
Writer = RecordingWriter | DeferredWriter


class BootClock:
    """The real clock; SIGTERM or SIGINT ends the waiting, so that the recording ends whole.

    What waits holds no lock that the signals' handler would need: it may come at any moment.
    """

    def __init__(self) -> None:
        self._asked_to_stop = False
        self._at_once = False
        self._heeded = set[signal.Signals]()

    def now(self) -> float:
        return time.clock_gettime(time.CLOCK_BOOTTIME)

    def sleep_until(self, instant: float) -> bool:
        # Held back from the look at the wish until it is waited for, none can slip in between.
        held_back = signal.pthread_sigmask(signal.SIG_BLOCK, self._heeded)
        try:
            if not self._asked_to_stop:
                came = signal.sigtimedwait(self._heeded, max(0.0, instant - self.now()))
                if came is not None:
                    self._heed(came.si_signo)
        finally:
            signal.pthread_sigmask(signal.SIG_SETMASK, held_back)
        return not self._asked_to_stop

    def may_ask(self) -> bool:
        return not self._at_once

    def stop_on_signals(self) -> None:
        """Take SIGTERM, SIGHUP and SIGINT as the wish to stop and keep.

        SIGTERM says that the PC is going down, SIGHUP that the terminal is gone, a second SIGINT
        that somebody is in a hurry: then nobody is asked any more. Where whoever started us has
        SIGHUP ignored, the recording outlives the terminal.
        """
        self._heeded = {signal.SIGTERM, signal.SIGINT}
        if signal.getsignal(signal.SIGHUP) != signal.SIG_IGN:
            self._heeded.add(signal.SIGHUP)
        for number in self._heeded:
            signal.signal(number, lambda number, _frame: self._heed(number))

    def _heed(self, number: int) -> None:
        self._at_once = number != signal.SIGINT or self._asked_to_stop
        self._asked_to_stop = True


class Pace(msgspec.Struct, frozen=True):
    """How often samples are taken. Seconds."""

    interval: float = 1.0
    at_first: float = 1.0
    """Shortest interval during the first minute of the recording, where the cost allows it."""
    first_seconds: float = 60.0
    most_of_a_core: float = 0.01
    """Share of one core that sampling may take to be that quick."""
    most_at_rest: float = float("inf")
    """Share of one core that sampling may take in the long run: on a slow PC the interval grows."""
    longest: float = 5.0
    """Longest interval."""

    def next_interval(self, recorded: float, cost: float) -> float:
        """Interval after ``recorded`` seconds, when the last sample cost so many CPU seconds."""
        usual = max(self.interval, min(self.longest, cost / self.most_at_rest))
        if recorded >= self.first_seconds or self.at_first >= self.interval:
            return usual
        return min(usual, max(self.at_first, cost / self.most_of_a_core))


STEADY = Pace()
ADAPTIVE = Pace(at_first=0.1, most_at_rest=0.02)
IN_CARE = Pace(most_at_rest=0.003)
"""On a PC that is used: its recorder starts and ends as well, which is more than its samples."""


def record(
    source: RecordingSource,
    clock: Clock,
    writer: Writer,
    for_seconds: float,
    pace: Pace = STEADY,
    listener: Listener | None = None,
    watch: RestWatch | None = None,
    looked_after: Container[ReasonCode] = frozenset(),
) -> ReasonCode:
    """Record ``source`` for ``for_seconds``, or until ``watch`` has seen it at rest.

    Returns why it ended. A step that comes too late is left out, not made up for. Where that is one
    of the reasons ``looked_after``, the recording goes on with a slow look.

    Raises:
        RecordingStopped: from the writer; what was written before is kept.
    """
    _emit(writer, listener, [source.header(), *source.opening_lines()])
    begin = clock.now()
    step = begin
    reason: ReasonCode | None = None
    spent: float | None = None
    while reason is None:
        lines = source.sample()
        _emit(writer, listener, lines)
        now = clock.now()
        sample = lines[-1]
        assert isinstance(sample, SampleLine)
        if watch is not None:
            watch.take(sample)
        # What was spent before the first sample is the start of the recorder itself.
        # Time it was kept waiting is no cost: a busy PC is what is to be recorded.
        cost = 0.0 if spent is None else sample.own_cpu_seconds - spent
        interval = pace.next_interval(now - begin, cost)
        spent = sample.own_cpu_seconds
        missed = max(0.0, (now - step) // interval)
        step += interval * (1 + missed)
        if watch is not None and watch.rested:
            reason = ReasonCode.WAS_AT_REST
        elif step > begin + for_seconds + 1e-9:
            reason = ReasonCode.TIME_WAS_UP
        elif writer.nearly_full:
            reason = ReasonCode.RECORDING_FULL
        elif not clock.sleep_until(step):
            reason = ReasonCode.STOPPED_BY_HAND
    _emit(writer, listener, source.closing_lines(clock.may_ask))
    writer.finish(reason.value, goes_on=reason in looked_after)
    return reason


def _emit(writer: Writer, listener: Listener | None, lines: Sequence[Line]) -> None:
    writer.write(lines)
    if listener:
        listener(lines)
