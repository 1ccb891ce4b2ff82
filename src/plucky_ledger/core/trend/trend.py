"""A PC's boots on one axis of calendar time, the steps in them, and what came with each."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from enum import StrEnum

from plucky_ledger.core.boots.boot import Boot, counted
from plucky_ledger.core.job.job import Job
from plucky_ledger.core.job.postings import Posting
from plucky_ledger.core.pc.history import PackageEvent
from plucky_ledger.core.trend.changepoints import FEWEST, steps_in
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.core.values.reasons import Reason

MEGABYTE = 1e6
DAYS_BEFORE = timedelta(days=3)
"""How long before a step something may have been installed and not been started since."""


@dataclass(frozen=True)
class TrendPoint:
    """One boot's figure."""

    at: datetime
    value: float
    """In the measure's unit."""


@dataclass(frozen=True)
class TrendLevel:
    """A stretch without a step, and its typical figure."""

    begin: datetime
    end: datetime
    value: float


@dataclass(frozen=True, kw_only=True)
class DatedStep:
    """A step between two levels, with what came then."""

    earliest: datetime
    """The last boot that was certainly before it."""
    latest: datetime
    """The first boot that was certainly after it."""
    before: float
    after: float
    postings: tuple[Posting, ...]
    """What was posted here between those."""
    noticed: tuple[Reason, ...]
    """What was found changed on the PC by the recordings between those, and by the next."""
    packages: tuple[PackageEvent, ...]
    """What was installed, updated or removed then, or in the days before."""

    @property
    def by(self) -> float:
        """How much more it takes since; negative where less."""
        return self.after - self.before


class Beside(StrEnum):
    """What is shown beside a trend."""

    MEMORY = "memory"
    """Bytes held at rest."""
    ENTRIES = "entries"
    """Startup entries that somebody installed and that start."""


@dataclass(frozen=True)
class Trend:
    """How a PC went in one measure."""

    measure: Measure
    points: tuple[TrendPoint, ...]
    levels: tuple[TrendLevel, ...]
    steps: tuple[DatedStep, ...]
    beside: Mapping[Beside, tuple[TrendPoint, ...]] = field(default_factory=dict)
    """What went along with it, where two boots at least tell."""

    @property
    def tells(self) -> bool:
        """Whether there are enough boots for a step to be found."""
        return len(self.points) >= 2 * FEWEST


def trend_of(
    job: Job,
    measure: Measure,
    packages: Iterable[PackageEvent] = (),
    entries: Sequence[TrendPoint] = (),
) -> Trend:
    """The trend of a job's PC; boots set aside, and those that never got there, are left out.

    ``entries`` are how many startup entries there were at some of its boots.
    """
    boots = [
        boot
        for boot in sorted(counted(job.boots), key=lambda boot: (boot.started_at, boot.number))
        if (reading := boot.readings.get(measure)) is not None
        and not reading.censored
        and reading.value > 0
    ]
    values = [boot.readings[measure].value for boot in boots]
    found = steps_in(values)
    ordered = sorted(packages, key=lambda event: (event.day, event.name))
    ends = [0, *(step.at for step in found), len(boots)]
    typical = [found[0].before, *(step.after for step in found)] if found else []
    return Trend(
        measure,
        tuple(
            TrendPoint(boot.started_at, value) for boot, value in zip(boots, values, strict=True)
        ),
        tuple(
            TrendLevel(boots[begin].started_at, boots[end - 1].started_at, value)
            for begin, end, value in zip(ends, ends[1:], typical, strict=False)
        ),
        tuple(
            _dated(job, boots, (step.earliest, step.latest), (step.before, step.after), ordered)
            for step in found
        ),
        _beside(job, measure, entries),
    )


def _beside(
    job: Job, measure: Measure, entries: Sequence[TrendPoint]
) -> dict[Beside, tuple[TrendPoint, ...]]:
    held = [
        TrendPoint(boot.started_at, boot.readings[Measure.MEMORY_HELD].value * MEGABYTE)
        for boot in counted(job.boots)
        if Measure.MEMORY_HELD in boot.readings and measure is not Measure.MEMORY_HELD
    ]
    series = {Beside.MEMORY: held, Beside.ENTRIES: entries}
    return {
        of: tuple(sorted(points, key=lambda point: point.at))
        for of, points in series.items()
        if len(points) > 1
    }


def _dated(
    job: Job,
    boots: Sequence[Boot],
    places: tuple[int, int],
    levels: tuple[float, float],
    packages: Sequence[PackageEvent],
) -> DatedStep:
    earliest, latest = (
        boots[max(places[0] - 1, 0)].started_at,
        boots[places[1]].started_at,
    )
    recorded = boots[places[0] : places[1] + 1]
    return DatedStep(
        earliest=earliest,
        latest=latest,
        before=levels[0],
        after=levels[1],
        postings=tuple(
            posting
            for posting in job.postings
            if posting.posted_at is not None and earliest <= posting.posted_at <= latest
        ),
        noticed=tuple(reason for boot in recorded for reason in boot.context.noticed),
        packages=tuple(
            event
            for event in packages
            if (earliest - DAYS_BEFORE).date() <= event.day <= latest.date()
        ),
    )
