"""Interfaces of the recorder: the source it reads and the clock it follows."""

from collections.abc import Callable, Sequence
from typing import Protocol

from plucky_ledger.recording.lines import Header, Line


class RecordingSource(Protocol):
    """A PC that can be recorded: this one, or the stand-in."""

    def header(self) -> Header:
        """Which PC and which boot this is."""

    def opening_lines(self) -> Sequence[Line]:
        """What is known of the circumstances before the first sample."""

    def sample(self) -> Sequence[Line]:
        """The program runs that changed since the call before, then the counters now, last."""

    def closing_lines(self, going_on: Callable[[], bool]) -> Sequence[Line]:
        """What the system can tell of the boot once sampling is over: marks, stages, entries.

        As soon as ``going_on`` says no, what was told until then.
        """


class Clock(Protocol):
    """Seconds since the kernel started, going on in suspend."""

    def now(self) -> float: ...

    def may_ask(self) -> bool:
        """Whether there is time to ask others; False when all shall be over at once."""

    def sleep_until(self, instant: float) -> bool:
        """Wait for ``instant``; False when waiting was broken off because recording shall end."""
