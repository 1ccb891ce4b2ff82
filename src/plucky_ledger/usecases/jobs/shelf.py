"""Jobs as they stand on the shelf: what is read most often, and by itself."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from plucky_ledger.core.boots.boot import METHOD
from plucky_ledger.core.entries.decisions import Decided, Decision
from plucky_ledger.core.job.job import Job
from plucky_ledger.store import decisions as stored_decisions
from plucky_ledger.store import jobs as stored
from plucky_ledger.store.boots import jobs_of_older_methods
from plucky_ledger.store.ledger import Ledger


@dataclass(frozen=True)
class OnShelf:
    """One job as it stands on the shelf."""

    job: Job
    look_ups: int
    """How many of its entries are to be looked up and nothing was found out about yet."""


def read_shelf(ledger: Ledger) -> tuple[OnShelf, ...]:
    """Every job as it stands on the shelf, newest first.

    What their boots held is as it was read when they had settled: no spine tells of it.
    """
    with ledger.session() as session:
        decided = stored_decisions.all_decisions(session)
        return tuple(
            OnShelf(job, _open_look_ups(decided.get(job.number, {})))
            for job in stored.read_jobs(session)
        )


def read_on_shelf(ledger: Ledger, number: int) -> OnShelf | None:
    """One job as it stands on the shelf; None when it is no longer there."""
    from plucky_ledger.core.job.like_with_like import with_later_figures  # not for all jobs

    with ledger.session() as session:
        if number not in {known for known, _ in stored.labels(session).values()}:
            return None
        decided = stored_decisions.decisions(session, number)
        job = with_later_figures(stored.read_job(session, number))
        return OnShelf(job, _open_look_ups(decided))


def _open_look_ups(decided: Mapping[str, Decided]) -> int:
    return sum(
        decided_entry.decision is Decision.LOOK_UP and not decided_entry.finding
        for decided_entry in decided.values()
    )


def jobs_of_older_figures(ledger: Ledger) -> Sequence[int]:
    """Jobs with boots whose figures were worked out by an older method, the newest job first."""
    with ledger.session() as session:
        return jobs_of_older_methods(session, METHOD)
