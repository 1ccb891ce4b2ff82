"""What happened to a PC elsewhere: it comes in again, and what others changed on it meanwhile."""

from collections.abc import Callable
from dataclasses import replace
from datetime import UTC, datetime, timedelta

from sqlalchemy.orm import Session

from plucky_ledger.core.job.changes import Change
from plucky_ledger.core.job.job import Job
from plucky_ledger.core.job.noticed import change_of, outside_of
from plucky_ledger.core.job.postings import Posting
from plucky_ledger.core.values.reasons import Reason
from plucky_ledger.core.values.steps import StepCode
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.store.boots import move_boots
from plucky_ledger.store.jobs import read_job, remove_posting, write_posting
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.undo import step
from plucky_ledger.usecases.jobs.clock import midnight

A_MOMENT = timedelta(seconds=1)


def begin_visit(ledger: Ledger, number: int, complaint: str = "") -> int:
    """Take a job's PC in again: a new opening in the same book. Returns the number of its line.

    Boots of the same day count for it, unless they are in the book already.

    Raises:
        Refused: nothing was measured at the last visit, something is still pencilled, or the PC
            has been taken in again already.
    """
    with step(ledger, StepCode.BEGIN_VISIT, number) as session:
        job = read_job(session, number)
        if not job.opening_boots:
            raise Refused(TroubleCode.NO_OPENING)
        if job.pencilled is not None:
            raise Refused(TroubleCode.PENCILLED_BEFORE_VISIT)
        last = job.last_posted
        if last is not None and last.opens_visit and not last.boots:
            raise Refused(TroubleCode.VISIT_HAS_BEGUN)
        visit = Posting(
            number=0, changes=(), title=complaint.strip(), posted_at=_came_in(job), opens_visit=True
        )
        return write_posting(session, number, visit)


def _came_in(job: Job) -> datetime:
    """The beginning of today by the local clock, but after everything that is in the book."""
    started = [boot.started_at for boot in job.boots]
    started += [posting.posted_at for posting in job.postings if posting.posted_at is not None]
    return max(midnight().astimezone(UTC), max(started) + A_MOMENT)


def write_down_outside(ledger: Ledger, number: int, words: Callable[[Reason], str]) -> int:
    """Write what changed on a job's PC without being posted into its book; ``words`` tell it.

    Where it was first seen in the middle of a round it gets a line of its own, from that boot on;
    where with the first boot of a posting, it came together with that and stands in its line.
    Returns the number of the line's posting.

    Raises:
        Refused: nothing changed that is not in the book yet.
    """
    with step(ledger, StepCode.WRITE_DOWN_OUTSIDE, number) as session:
        job = read_job(session, number)
        found = outside_of(job)
        if found is None:
            raise Refused(TroubleCode.NOTHING_OUTSIDE)
        changes = tuple(change_of(reason, words(reason)) for reason in found.changed)
        posted = job.last_posted
        if posted is not None and posted.boots[0] == found.boot:
            return write_posting(session, number, _with(posted, changes))
        boots = posted.boots if posted is not None else job.opening_boots
        at = found.boot.started_at - A_MOMENT
        line = _last_line(session, job, Posting(number=0, changes=changes, posted_at=at))
        move_boots(session, boots[boots.index(found.boot) :], line)
        return line


def _with(posting: Posting, changes: tuple[Change, ...]) -> Posting:
    return replace(posting, changes=(*posting.changes, *changes))


def _last_line(session: Session, job: Job, posting: Posting) -> int:
    """Write a line that was made before what is pencilled, which comes behind it."""
    pencilled = job.pencilled
    if pencilled is not None:
        remove_posting(session, pencilled.number)
    number = write_posting(session, job.number, posting)
    if pencilled is not None:
        write_posting(session, job.number, replace(pencilled, number=0))
    return number
