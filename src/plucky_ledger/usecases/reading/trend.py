"""How a job's PC went over months, and what came with each step."""

from plucky_ledger.core.boots.boot import How, counted
from plucky_ledger.core.job.job import Job
from plucky_ledger.core.pc.history import PackageEvent
from plucky_ledger.core.trend.trend import Trend, TrendPoint, trend_of
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.jobs.jobs import read_job
from plucky_ledger.usecases.reading.analyses import Analyses

WATCHED = frozenset({How.RECORDED, How.AT_REST})
LOOKED_AT = 4
"""The newest boots: one of them holds what was installed over the months before."""


def trend(ledger: Ledger, number: int, measure: Measure, analyses: Analyses) -> Trend:
    """The trend in a measure; takes a moment."""
    job = read_job(ledger, number)
    newest = sorted(counted(job.boots), key=lambda boot: boot.started_at)[-LOOKED_AT:]
    known: set[PackageEvent] = set()
    for boot in newest:
        known.update(analyses.of(ledger, number, boot).timeline.history)
    return trend_of(job, measure, known, _entries(ledger, job, analyses))


def _entries(ledger: Ledger, job: Job, analyses: Analyses) -> list[TrendPoint]:
    """How many startup entries somebody installed that start: of each line's newest recording."""
    found = []
    for boots in job.rounds:
        recorded = [boot for boot in counted(boots) if boot.how in WATCHED]
        if recorded:
            newest = max(recorded, key=lambda boot: boot.started_at)
            entries = analyses.of(ledger, job.number, newest).timeline.entries
            starting = [e for e in entries if not e.part_of_system and e.off_because is None]
            if starting:
                found.append(TrendPoint(newest.started_at, float(len(starting))))
    return found
