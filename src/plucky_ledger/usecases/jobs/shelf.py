"""Jobs as they stand on the shelf: what is read most often, and by itself."""

from collections.abc import Sequence
from dataclasses import dataclass

from plucky_ledger.core.boots.boot import METHOD
from plucky_ledger.core.job.job import Job
from plucky_ledger.core.shelf.spine import Spine
from plucky_ledger.store import jobs as stored
from plucky_ledger.store import spines
from plucky_ledger.store.boots import count_boots, jobs_of_older_methods
from plucky_ledger.store.decisions import all_decisions
from plucky_ledger.store.ledger import Ledger

LOOKED_THROUGH_BOOTS = 3000
MADE_AT_ONCE = 50
"""Spines that are written in one transaction."""


@dataclass(frozen=True)
class OnShelf:
    """One job, and how it stands on the shelf."""

    job: Job
    spine: Spine


def read_shelf(ledger: Ledger) -> tuple[Spine, ...]:
    """Every job as it stands on the shelf, newest first; what has no spine yet takes longer."""
    with ledger.session() as session:
        known = spines.read_spines(session)
        missing = tuple(
            spines.made_spine(session, number) for number in spines.without_spine(session)
        )
    return tuple(sorted((*known, *missing), key=lambda spine: -spine.job)) if missing else known


def look_through(ledger: Ledger) -> None:
    """Read everything once, so that damage is found before anybody writes on. Where there is much,
    or where a server keeps it, only the shelf: what is damaged is found as its job is opened.

    Raises:
        LedgerFault: something is damaged.
    """
    with ledger.session() as session:
        if ledger.address.file is None or count_boots(session) > LOOKED_THROUGH_BOOTS:
            spines.read_spines(session)
            return
        stored.read_jobs(session)
        all_decisions(session)


def read_on_shelf(ledger: Ledger, number: int) -> OnShelf | None:
    """One job as it stands on the shelf; None when it is no longer there."""
    from plucky_ledger.core.job.like_with_like import with_later_figures  # not for all jobs

    with ledger.session() as session:
        if number not in {known for known, _ in stored.labels(session).values()}:
            return None
        job = with_later_figures(stored.read_job(session, number))
        spine = spines.read_spine(session, number) or spines.made_spine(session, number)
        return OnShelf(job, spine)


def keep_missing_spines(ledger: Ledger) -> int:
    """Write the spines that are not there; returns how many. It is nobody's step, and what a bench
    of a later version has written is left to it.
    """
    assert ledger.may_write(), "spines are written beside the writer"
    with ledger.session() as session:
        if not spines.without_spine(session, nor_newer=True):
            return 0
    with ledger.writing_what_follows() as session:
        missing = spines.without_spine(session, nor_newer=True)[:MADE_AT_ONCE]
        for number in missing:
            spines.keep_spine(session, number)
    return len(missing)


def jobs_of_older_figures(ledger: Ledger) -> Sequence[int]:
    """Jobs with boots whose figures were worked out by an older method, the newest job first."""
    with ledger.session() as session:
        return jobs_of_older_methods(session, METHOD)
