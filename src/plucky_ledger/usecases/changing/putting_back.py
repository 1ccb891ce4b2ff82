"""Putting back: first on the PC, then in the book; with no ledger, by the PC's own journal."""

from collections.abc import Sequence

from plucky_ledger.control.requests import RevertSelection
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.entries.switching import PutBack, Switchable
from plucky_ledger.core.job.changes import Change, undoing
from plucky_ledger.core.job.job import Job, changes_in_force, posting_of, put_back_since
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.changing import postings
from plucky_ledger.usecases.changing.control import ControlOfStandIn, control_of, control_of_this_pc
from plucky_ledger.usecases.changing.switching import Planned, is_switched
from plucky_ledger.usecases.jobs.jobs import read_job


def planned_put_back(
    ledger: Ledger, number: int, posting_number: int | None, entries: Sequence[str] = ()
) -> tuple[Planned, ...]:
    """What putting back would undo on a job's PC, and what is left to be undone by hand.

    Raises:
        Refused: nothing of it is in force.
    """
    job = read_job(ledger, number)
    chosen = _put_back_changes(job, posting_number, entries)
    if not chosen:
        raise Refused(TroubleCode.NOTHING_TO_PUT_BACK)
    control, keys = control_of(job), _keys(job, posting_number)
    ours = [change.entry_id for change in chosen if is_switched(change)]
    found = control.look(ours) if control and ours else {}
    as_the_book = isinstance(control, ControlOfStandIn)
    kept = {
        entry
        for change in (control.changes() if control is not None else ())
        if change.key in keys
        for entry in change.entries
    }
    return tuple(
        Planned(
            undoing(change),
            found.get(change.entry_id) if as_the_book or change.entry_id in kept else None,
            _is_back(change, found.get(change.entry_id)),
        )
        for change in chosen
    )


def _keys(job: Job, posting_number: int | None) -> tuple[str, ...]:
    return tuple(
        posting.uuid
        for posting in job.postings
        if posting_number is None or posting.number == posting_number
    )


def put_back_on_pc(
    ledger: Ledger, number: int, posting_number: int | None, entries: Sequence[str] = ()
) -> tuple[Change, ...]:
    """Undo on the PC what a posting did, or with None everything of the job.

    Returns the changes that somebody has to undo by hand. Raises Trouble; the PC is as it was.
    """
    job = read_job(ledger, number)
    chosen = _put_back_changes(job, posting_number, entries)
    control = control_of(job)
    if control is None:
        return chosen
    keys = _keys(job, posting_number)
    if not keys:
        return ()
    undone = control.put_back(RevertSelection(keys, tuple(entries)))
    done = {entry.entry_id for entry in undone if not entry.left_at}
    now = control.look([change.entry_id for change in chosen if is_switched(change)])
    return tuple(
        change
        for change in chosen
        if change.entry_id not in done and not _is_back(change, now.get(change.entry_id))
    )


def _is_back(change: Change, now: Switchable | None) -> bool:
    return now is not None and now.state is (change.old_state or EntryState.ON)


def _put_back_changes(
    job: Job, posting_number: int | None, entries: Sequence[str]
) -> tuple[Change, ...]:
    if posting_number is None:
        return changes_in_force(job)
    posting = posting_of(job, posting_number)
    if posting is None:
        raise Refused(TroubleCode.ROW_GONE)
    undone = put_back_since(job, posting)
    return tuple(
        change
        for change in posting.own_changes
        if change not in undone and (not entries or change.entry_id in entries)
    )


def put_back(
    ledger: Ledger, number: int, posting: int | None, entries: Sequence[str] = (), why: str = ""
) -> tuple[Change, ...]:
    """Undo a posting, what it did to some entries, or with None everything: on the PC and in the
    book. Returns what somebody has to undo by hand. Raises Trouble.
    """
    by_hand = put_back_on_pc(ledger, number, posting, entries)
    write_back(ledger, number, posting, entries, why)
    return by_hand


def write_back(
    ledger: Ledger, number: int, posting: int | None, entries: Sequence[str] = (), why: str = ""
) -> None:
    """Write down that a posting was put back, part of it, or with None everything."""
    if posting is None:
        postings.put_everything_back(ledger, number, why)
    else:
        postings.strike_out(ledger, number, posting, why, entries)


def posting_in_force(job: Job, entry_id: str) -> int | None:
    """Number of the posting that set an entry as it is; None where it is as it was found."""
    for posting in reversed(job.postings):
        if posting.posted_at is None or posting.strikes_out is not None:
            continue
        undone = put_back_since(job, posting)
        if any(
            c.entry_id == entry_id and not c.put_back and c not in undone
            for c in posting.own_changes
        ):
            return posting.number
    return None


def put_back_by_the_journal(cut_off: bool) -> list[PutBack]:
    """Undo everything ever changed on this PC, or only what was cut off, with no ledger at all.

    Raises Trouble.
    """
    return control_of_this_pc().put_back(RevertSelection(cut_off=cut_off))
