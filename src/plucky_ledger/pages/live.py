"""A recording while it is being made: the curves so far and what is waited for."""

from collections.abc import Iterable

import msgspec
import numpy as np

from plucky_ledger.exchange.boots import samples_from
from plucky_ledger.pages.lanes import Strip, strips_of
from plucky_ledger.recording.lines import Header, Line, MarkLine, NoteLine, PcFacts, SampleLine


class LiveBoot:
    """Takes the recorder's lines as they come."""

    def __init__(self, for_seconds: float) -> None:
        self._for_seconds = for_seconds
        self._facts = PcFacts()
        self._samples: list[SampleLine] = []
        self._rest = b""
        self._decoder = msgspec.json.Decoder(Line)
        self.marks: list[tuple[str, str]] = []
        """Name and time in words, as they fell."""
        self.notes: list[str] = []

    def feed(self, data: bytes) -> None:
        """Take bytes of JSON lines; an unfinished line waits for its rest."""
        *whole, self._rest = (self._rest + data).split(b"\n")
        self.take(self._decoder.decode(line) for line in whole if line)

    def take(self, lines: Iterable[Line]) -> None:
        """Take lines."""
        for line in lines:
            match line:
                case SampleLine():
                    self._samples.append(line)
                case MarkLine():
                    self.marks.append((line.name, f"{line.seconds:.1f} s"))
                case NoteLine():
                    self.notes.append(line.text)
                case Header():
                    self._facts = line.facts

    @property
    def strips(self) -> tuple[Strip, ...]:
        """The four curves so far."""
        samples = samples_from(self._samples, self._facts)
        return strips_of(samples) if samples is not None else ()

    @property
    def seconds(self) -> float:
        """How long this has been recording."""
        return self._samples[-1].seconds - self._samples[0].seconds if self._samples else 0.0

    @property
    def since_start(self) -> str:
        """How long ago the PC started, in words."""
        return f"{self._samples[-1].seconds:.0f} s" if self._samples else "…"

    @property
    def left(self) -> str:
        """Time left, in words."""
        return f"{max(0.0, self._for_seconds - self.seconds):.0f} s left"

    @property
    def done_share(self) -> float:
        """0 to 1."""
        return float(np.clip(self.seconds / self._for_seconds, 0.0, 1.0))
