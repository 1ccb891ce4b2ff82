"""What the workshop knows of programs: there at the visit before, decided about anywhere."""

from collections.abc import Iterable

from plucky_ledger.core.boots.boot import Boot, How
from plucky_ledger.core.boots.stock import program_key
from plucky_ledger.core.entries.entry import StartupEntry
from plucky_ledger.core.job.job import Job
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.jobs.jobs import read_job
from plucky_ledger.usecases.reading.analyses import Analyses
from plucky_ledger.usecases.reading.elsewhere import WorkshopMemory

WATCHED = frozenset({How.RECORDED, How.AT_REST})


def programs_before(ledger: Ledger, number: int, analyses: Analyses) -> frozenset[str] | None:
    """Programs that ran in the last boot of the visit before; None where this is the first, or
    nobody watched.
    """
    boot = _last_of_visit_before(read_job(ledger, number))
    if boot is None:
        return None
    runs = analyses.of(ledger, number, boot).timeline.runs
    return frozenset(program_key(run) for run in runs)


def _last_of_visit_before(job: Job) -> Boot | None:
    opened = [place for place, posting in enumerate(job.postings) if posting.opens_visit]
    rounds = job.rounds[: opened[-1] + 1] if opened else ()
    watched = [boot for boots in rounds for boot in boots if boot.how in WATCHED]
    return watched[-1] if watched else None


def entries_unknown(
    ledger: Ledger, entries: Iterable[StartupEntry], memory: WorkshopMemory
) -> frozenset[str]:
    """Entries somebody installed that nobody of this workshop ever decided about, on any job."""
    installed = [entry for entry in entries if not entry.part_of_system]
    every_job = 0
    known = memory.elsewhere(ledger, [entry.identity for entry in installed], every_job)
    return frozenset(entry.entry_id for entry in installed if not known[entry.identity].jobs)
