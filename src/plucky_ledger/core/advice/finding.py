"""What a rule found, as values: the evidence, what following it would win, and what to pencil."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from statistics import fmean

from plucky_ledger.core.advice.rules import Effort
from plucky_ledger.core.entries.entry import StartupEntry
from plucky_ledger.core.job.advised import Advised, RuleCode
from plucky_ledger.core.job.changes import Change
from plucky_ledger.core.values.estimates import Estimate
from plucky_ledger.core.values.reasons import Fact


class Sureness(StrEnum):
    """How sure a finding is."""

    SEEN = "seen"
    """It was measured or counted."""
    LIKELY = "likely"
    """What was measured is explained best by it."""


@dataclass(frozen=True)
class Curve:
    """Evidence as a course over time: shares, 0 to 1, at seconds since the kernel started."""

    of: str
    """"disk", "cpu" or "memory"."""
    seconds: tuple[float, ...]
    shares: tuple[float, ...]

    def stretches(self, most: int) -> tuple[tuple[float, float, float], ...]:
        """At most so many stretches of it: begin and end in seconds, and the mean share."""
        points = len(self.seconds)
        many = -(-points // most)
        runs = (slice(at, at + many) for at in range(0, points, many))
        return tuple(
            (self.seconds[run][0], self.seconds[run][-1], fmean(self.shares[run])) for run in runs
        )


@dataclass(frozen=True)
class Gauge:
    """Evidence as how full something is. Shares, 0 to 1."""

    of: str
    share: float
    mark: float
    """From where on the rule holds."""
    less: bool = False
    """It holds below the mark."""


@dataclass(frozen=True)
class Tally:
    """Evidence as a count."""

    some: int
    of: int | None = None
    """Out of so many; None where there is no such number."""


@dataclass(frozen=True)
class Stretch:
    """Evidence as a stretch of the start. Seconds since the kernel started."""

    begin: float
    end: float
    whole: float


Drawing = Curve | Gauge | Tally | Stretch


@dataclass(frozen=True, kw_only=True)
class Finding:
    """One thing that keeps a PC slow, or will."""

    rule: RuleCode
    sureness: Sureness
    effort: Effort
    facts: Mapping[str, Fact] = field(default_factory=dict)
    """What was seen: the figures its sentence is made of."""
    saves: Estimate | None = None
    """Seconds sooner that it would be settled; None where nothing can tell."""
    settled: Estimate | None = None
    """When it would be settled then."""
    drawing: Drawing | None = None
    changes: tuple[Change, ...] = ()
    """What to pencil to follow it; empty where there is nothing to be written in the book."""
    entries: tuple[str, ...] = ()
    """Ids of the startup entries it is about."""
    switch_off: StartupEntry | None = None
    """The entry that is to be switched off, as one that is decided about: guarded ones are asked
    for twice."""
    about: str = ""
    """Which of several it is about: an entry's id, a drive's name; empty where there is but one."""

    @property
    def advised(self) -> Advised:
        """What of it the owner is told."""
        return Advised(self.rule, self.about, dict(self.facts), self.saves, self.settled)
