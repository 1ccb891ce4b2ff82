"""How a job's PC went over months, and what came with each step."""

from plucky_ledger.core.boots.boot import counted
from plucky_ledger.core.measures import Measure
from plucky_ledger.core.pc.history import PackageEvent
from plucky_ledger.core.trend.trend import Trend, trend_of
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.analyses import Analyses
from plucky_ledger.usecases.jobs import read_job

LOOKED_AT = 4
"""The newest boots: one of them holds what was installed over the months before."""


def trend(ledger: Ledger, number: int, measure: Measure, analyses: Analyses) -> Trend:
    """The trend in a measure; takes a moment."""
    job = read_job(ledger, number)
    newest = sorted(counted(job.boots), key=lambda boot: boot.started_at)[-LOOKED_AT:]
    known: set[PackageEvent] = set()
    for boot in newest:
        known.update(analyses.of(ledger, number, boot).timeline.history)
    return trend_of(job, measure, known)
