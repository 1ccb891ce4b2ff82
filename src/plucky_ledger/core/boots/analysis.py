"""Analysis of one boot: the derived values that the book, all views and the replay share."""

from dataclasses import dataclass
from functools import cached_property

from plucky_ledger.core.boots.attribution import (
    Attribution,
    OwnerKind,
    attribute,
    is_of_the_night,
    owners_of,
)
from plucky_ledger.core.boots.boot import Boot, How
from plucky_ledger.core.boots.readings import readings_at_rest, readings_of, settled_of
from plucky_ledger.core.boots.samples import Samples
from plucky_ledger.core.boots.settle import Settled
from plucky_ledger.core.boots.timeline import Timeline
from plucky_ledger.core.boots.without_set_aside import without_programs
from plucky_ledger.core.values.measures import Readings


@dataclass(frozen=True)
class Analysis:
    """A boot with the values derived from its timeline, each computed once, on first use."""

    boot: Boot
    timeline: Timeline
    aside: frozenset[str] = frozenset()
    """Names of the programs set aside, with all they started."""

    @cached_property
    def samples(self) -> Samples | None:
        """The samples as they would read without what is set aside."""
        samples, runs = self.timeline.samples, self.timeline.runs
        if samples is None or not (self.aside or any(map(is_of_the_night, runs))):
            return samples
        owners = owners_of(runs, self.timeline.entries, self.aside)
        gone = (run for run in runs if owners[run.run].kind is OwnerKind.ASIDE and not run.own)
        return without_programs(samples, tuple(gone))

    @cached_property
    def settled(self) -> Settled | None:
        """When it settled, sign-in wait included; None where nothing tells, as in a reading at
        rest.
        """
        return settled_of(self.boot.marks, self.samples) if self.boot.is_start else None

    @cached_property
    def readings(self) -> Readings:
        """Its figures in every measure."""
        if self.boot.how is How.AT_REST:
            return readings_at_rest(self.samples) if self.samples is not None else {}
        return readings_of(self.boot.marks, self.samples, self.settled)

    @cached_property
    def attribution(self) -> Attribution | None:
        """Work by owner; None without samples or program readings."""
        return attribute(self.timeline, self.aside)

    @property
    def settled_at(self) -> float | None:
        """Seconds since the kernel started at which it settled; None where nobody saw it do so."""
        return self.settled.at if self.settled is not None else None
