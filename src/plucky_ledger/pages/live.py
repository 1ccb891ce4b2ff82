"""A recording while it is being made: the curves so far and what is waited for."""

from collections.abc import Iterable

import numpy as np

from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.exchange.names import MARKS
from plucky_ledger.exchange.timelines import samples_from
from plucky_ledger.pages.curves import Strip, strips_of
from plucky_ledger.recording.lines import Header, Line, MarkLine, PcFacts, SampleLine


class LiveBoot:
    """Takes the recorder's lines as they come."""

    def __init__(self, for_seconds: float) -> None:
        self._for_seconds = for_seconds
        self._facts = PcFacts()
        self._samples: list[SampleLine] = []
        self.marks: list[tuple[Mark, float]] = []
        """Mark and seconds since the kernel started, as they fell."""

    def take(self, lines: Iterable[Line]) -> None:
        """Take lines."""
        for line in lines:
            match line:
                case SampleLine():
                    self._samples.append(line)
                case MarkLine() if line.name in MARKS:
                    self.marks.append((MARKS[line.name], line.seconds))
                case Header():
                    self._facts = line.facts

    @property
    def strips(self) -> tuple[Strip, ...]:
        """The four curves so far."""
        samples = samples_from(self._samples, self._facts)
        return strips_of(samples) if samples is not None else ()

    @property
    def since_start(self) -> float | None:
        """Seconds since the kernel started; None before the first sample."""
        return self._samples[-1].seconds if self._samples else None

    @property
    def recorded_seconds(self) -> float:
        """How long this has been recording."""
        return self._samples[-1].seconds - self._samples[0].seconds if self._samples else 0.0

    @property
    def left_seconds(self) -> float:
        """Time left."""
        return max(0.0, self._for_seconds - self.recorded_seconds)

    @property
    def done_share(self) -> float:
        """0 to 1."""
        return float(np.clip(self.recorded_seconds / self._for_seconds, 0.0, 1.0))
