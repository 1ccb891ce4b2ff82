"""Writing down changes, posting them, and striking a posting out again."""

from dataclasses import replace

from plucky_ledger.core.book.job import (
    Change,
    ChangeKind,
    EntryState,
    Job,
    Posting,
    PostingState,
    state_of,
)
from plucky_ledger.store import jobs as stored
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.jobs import Refused
from plucky_ledger.wording.figures import now


def pencil(ledger: Ledger, job: Job, changes: tuple[Change, ...], title: str = "") -> int:
    """Add changes to the pencilled posting, opening one if there is none; returns its number.

    Raises:
        Refused: a change without saying what was done.
    """
    if not changes or any(not change.what.strip() for change in changes):
        raise Refused("Say what is changed, in a few words.")
    posting = job.pencilled or Posting(0, ())
    pencilled = replace(
        posting, changes=(*posting.changes, *changes), title=title.strip() or posting.title
    )
    return stored.put_posting(ledger, "pencil a change", job.number, pencilled)


def rub_out(ledger: Ledger, job: Job) -> None:
    """Remove the pencilled posting.

    Raises:
        Refused: nothing is pencilled.
    """
    if job.pencilled is None:
        raise Refused("Nothing is pencilled. A posting that was made is struck out instead.")
    stored.remove_posting(ledger, "rub out what was pencilled", job.number, job.pencilled.number)


def post(ledger: Ledger, job: Job) -> int:
    """The pencilled changes have been made: from now on a restart is due. Returns its number.

    Raises:
        Refused: nothing is pencilled, or nothing was measured before.
    """
    if job.pencilled is None:
        raise Refused("Nothing is pencilled. Write down what is changed first.")
    _has_opening(job)
    posted = replace(job.pencilled, posted_at=now())
    return stored.put_posting(ledger, "post the changes", job.number, posted)


def write_down(ledger: Ledger, job: Job, changes: tuple[Change, ...], title: str = "") -> int:
    """Write down changes that have just been made: pencilled and posted in one step."""
    if job.pencilled is not None:
        pencil(ledger, job, changes, title)
        return post(ledger, stored.job(ledger, job.number))
    if not changes or any(not change.what.strip() for change in changes):
        raise Refused("Say what is changed, in a few words.")
    _has_opening(job)
    posting = Posting(0, changes, title.strip(), posted_at=now())
    return stored.put_posting(ledger, "post the changes", job.number, posting)


def _has_opening(job: Job) -> None:
    if not job.opening_boots:
        raise Refused(
            "There is no opening balance yet: record a boot before the first change, or nobody "
            "will know what it won."
        )


def strike_out(ledger: Ledger, job: Job, posting: Posting, why: str = "") -> int:
    """Put a posting back: a new posting that undoes it, restart due. Returns its number.

    Raises:
        Refused: it is only pencilled, or struck out already.
    """
    state = state_of(job, posting)
    if state is PostingState.PENCILLED:
        raise Refused("It is only pencilled: rub it out instead.")
    if state is PostingState.STRUCK_OUT:
        raise Refused("It is struck out already.")
    back = Posting(
        0,
        tuple(_put_back(change, why) for change in posting.changes),
        title=f"Put back: {posting.particulars}",
        posted_at=now(),
        strikes_out=posting.number,
    )
    return stored.put_posting(ledger, "put a posting back", job.number, back)


def _put_back(change: Change, why: str) -> Change:
    state = EntryState.ON if change.kind is ChangeKind.STARTUP_ENTRY and change.entry_id else None
    return Change(change.kind, f"put back: {change.what}", why, change.entry_id, state)


def entry_states(job: Job) -> dict[str, EntryState]:
    """How the startup entries are set by everything posted so far; the others are as found."""
    states: dict[str, EntryState] = {}
    for posting in job.postings:
        if posting.posted_at is not None:
            states.update(
                {c.entry_id: c.new_state for c in posting.changes if c.entry_id and c.new_state}
            )
    return states
