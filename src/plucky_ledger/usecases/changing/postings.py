"""Writing down changes, posting them, and putting a posting back."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace
from types import MappingProxyType
from typing import TYPE_CHECKING

from sqlalchemy.orm import Session

from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.job.changes import Change, undoing
from plucky_ledger.core.job.job import Job, changes_in_force, posting_of, put_back_since, state_of
from plucky_ledger.core.job.postings import Posting, PostingState
from plucky_ledger.core.values.steps import StepCode
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.store.jobs import read_job, remove_posting, write_posting
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.undo import step
from plucky_ledger.usecases.jobs.clock import now
from plucky_ledger.usecases.recording.pcs import pc_of

if TYPE_CHECKING:
    from plucky_ledger.core.replay.startup_cost import PlanEstimate

NOTHING_KNOWN: Mapping[str, EntryState | None] = MappingProxyType({})


def pencil(ledger: Ledger, number: int, changes: tuple[Change, ...], title: str = "") -> int:
    """Add changes to a job's pencilled posting, opening one if there is none.

    Returns the posting's number.

    Raises:
        Refused: a change without saying what was done.
    """
    with step(ledger, StepCode.PENCIL, number) as session:
        job = read_job(session, number)
        return write_posting(session, number, _with_changes(job, changes, title))


def rub_out(ledger: Ledger, number: int) -> None:
    """Remove a job's pencilled posting.

    Raises:
        Refused: nothing is pencilled.
    """
    with step(ledger, StepCode.RUB_OUT, number) as session:
        pencilled = read_job(session, number).pencilled
        if pencilled is None:
            raise Refused(TroubleCode.NOTHING_PENCILLED_TO_RUB_OUT)
        remove_posting(session, pencilled.number)


def post(
    ledger: Ledger,
    number: int,
    before: Mapping[str, EntryState | None] = NOTHING_KNOWN,
    plan: "PlanEstimate | None" = None,
    only: Collection[str] | None = None,
) -> int:
    """The pencilled changes have been made: from now on a restart is due.

    ``before`` says how entries were set before, by their ids; ``plan`` what is expected of the
    changes. ``only`` are the entries of those that were made: the rest stays pencilled. Returns
    the posting's number.

    Raises:
        Refused: nothing is pencilled, or nothing was measured before.
    """
    with step(ledger, StepCode.POST, number) as session:
        job = read_job(session, number)
        if job.pencilled is None:
            raise Refused(TroubleCode.NOTHING_PENCILLED_TO_POST)
        pencilled = job.pencilled.changes
        changes = tuple(
            replace(change, old_state=before.get(change.entry_id, change.old_state))
            for change in pencilled
            if only is None or change.entry_id in only
        )
        rest = tuple(c for c in pencilled if only is not None and c.entry_id not in only)
        expected = plan.balances if plan is not None else {}
        number = _post(session, job, replace(job.pencilled, changes=changes, expected=expected))
        if rest:
            write_posting(session, job.number, Posting(number=0, changes=rest))
        return number


def write_down(ledger: Ledger, number: int, changes: tuple[Change, ...], title: str = "") -> int:
    """Write down changes that have just been made, with all that was pencilled: posted at once.

    Raises like ``pencil`` and ``post``.
    """
    with step(ledger, StepCode.POST, number) as session:
        job = read_job(session, number)
        return _post(session, job, _with_changes(job, changes, title))


def _with_changes(job: Job, changes: tuple[Change, ...], title: str) -> Posting:
    """The pencilled posting with more changes."""
    if not changes or any(not change.what.strip() for change in changes):
        raise Refused(TroubleCode.NO_CHANGE_SAID)
    posting = job.pencilled or Posting(number=0, changes=())
    return replace(
        posting, changes=(*posting.changes, *changes), title=title.strip() or posting.title
    )


def _post(session: Session, job: Job, posting: Posting) -> int:
    if not job.opening_boots:
        raise Refused(TroubleCode.NO_OPENING)
    posted = replace(posting, posted_at=now(), posted_in_boot=pc_of(job).boot_id)
    return write_posting(session, job.number, posted)


def strike_out(
    ledger: Ledger, number: int, posting_number: int, why: str = "", entries: Sequence[str] = ()
) -> int:
    """Put a posting of a job back, or what it did to some entries: a new posting that undoes it.

    A restart is due then. Returns its number.

    Raises:
        Refused: it is only pencilled, struck out already, or not there.
    """
    with step(ledger, StepCode.PUT_BACK, number) as session:
        job = read_job(session, number)
        posting = posting_of(job, posting_number)
        if posting is None:
            raise Refused(TroubleCode.ROW_GONE)
        state = state_of(job, posting)
        if state is PostingState.PENCILLED:
            raise Refused(TroubleCode.ONLY_PENCILLED)
        if state is PostingState.STRUCK_OUT:
            raise Refused(TroubleCode.STRUCK_OUT_ALREADY)
        if not posting.own_changes:
            raise Refused(TroubleCode.VISIT_IS_NOT_PUT_BACK)
        undone = put_back_since(job, posting)
        left = [change for change in posting.own_changes if change not in undone]
        chosen = [change for change in left if not entries or change.entry_id in entries]
        if not chosen:
            raise Refused(TroubleCode.STRUCK_OUT_ALREADY)
        whole = posting.number if chosen == list(posting.own_changes) else None
        return _write_back(session, job, chosen, why, whole)


def put_everything_back(ledger: Ledger, number: int, why: str = "") -> int:
    """Put back all that is in force: a new posting that undoes it, the newest first.

    Returns its number.

    Raises:
        Refused: nothing is in force.
    """
    with step(ledger, StepCode.PUT_BACK, number) as session:
        job = read_job(session, number)
        chosen = changes_in_force(job)[::-1]
        if not chosen:
            raise Refused(TroubleCode.NOTHING_TO_PUT_BACK)
        return _write_back(session, job, chosen, why, None)


def _write_back(
    session: Session, job: Job, chosen: Sequence[Change], why: str, strikes_out: int | None
) -> int:
    back = Posting(
        number=0,
        changes=tuple(undoing(change, why) for change in chosen),
        posted_at=now(),
        posted_in_boot=pc_of(job).boot_id,
        strikes_out=strikes_out,
    )
    return write_posting(session, job.number, back)
