"""Posting what is pencilled: first the PC itself is changed, then the book says so.

Both have the posting's UUID. Where something cuts in between, ``agree`` finds out by it what was
done, and has the book follow the PC.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

from plucky_ledger.control.place import Order, Which
from plucky_ledger.core.book.job import (
    Change,
    Job,
    Posting,
    PostingState,
    changes_in_force,
    posting_of,
    put_back_since,
    readings_in,
    state_of,
    undoing,
)
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.entries.switching import (
    LATER_SECONDS,
    PutBack,
    Reversible,
    Switchable,
    Switched,
    Wish,
    unfinished,
)
from plucky_ledger.core.measures import Measure
from plucky_ledger.core.trouble import Refused, TroubleCode
from plucky_ledger.linux.users import user_name
from plucky_ledger.store.jobs import read_job
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases import postings
from plucky_ledger.usecases.control import control_of, control_of_this_pc

if TYPE_CHECKING:
    from plucky_ledger.core.cost.startup_cost import PlanEstimate

AFTER_SETTLED_SECONDS = 120


@dataclass(frozen=True)
class Planned:
    """A pencilled change, and what it means for the PC as it is now."""

    change: Change
    found: Switchable | None = None
    """How its entry is set; None where nobody can look, or it is about no entry."""
    is_so: bool = False
    """It is set so already, by whomever: there is nothing to do."""

    @property
    def by_hand(self) -> bool:
        """Whether somebody has to make it: it cannot be made from here."""
        if self.is_so or (self.change.put_back and self.found is not None):
            return False
        return self.found is None or self.change.new_state not in self.found.possible


@dataclass(frozen=True)
class Made:
    """What was done to a PC, before the book says so."""

    switched: tuple[Switched, ...] = ()
    by_hand: tuple[Change, ...] = ()
    """Changes that nobody but the technician can make."""


def look(ledger: Ledger, number: int, entry_id: str) -> Switchable | None:
    """How an entry of a job's PC is set; None where that PC is not switched from here."""
    control = control_of(_job(ledger, number))
    return control.look([entry_id])[entry_id] if control is not None else None


def planned(ledger: Ledger, number: int) -> tuple[Planned, ...]:
    """What posting would change on a job's PC, and what is left to be done by hand.

    Raises:
        Refused: nothing is pencilled.
    """
    return _planned(_job(ledger, number))


def _planned(job: Job) -> tuple[Planned, ...]:
    if job.pencilled is None:
        raise Refused(TroubleCode.NOTHING_PENCILLED_TO_POST)
    control = control_of(job)
    changes = job.pencilled.changes
    ours = [change.entry_id for change in changes if _is_ours(change)]
    found = control.look(ours) if control and ours else {}
    return tuple(Planned(change, found.get(change.entry_id)) for change in changes)


def switch_pencilled(ledger: Ledger, number: int) -> Made:
    """Make the pencilled changes that can be made from here; takes as long as somebody is asked.

    Raises:
        Trouble: one of them could not be made; the PC is as it was.
    """
    job = _job(ledger, number)
    changes, control = _planned(job), control_of(job)
    if not job.opening_boots:
        raise Refused(TroubleCode.NO_OPENING)
    by_hand = tuple(one.change for one in changes if one.by_hand)
    later = _later_seconds(job)
    wishes = tuple(
        Wish(one.change.entry_id, one.change.what, one.change.new_state, later)
        for one in changes
        if not one.by_hand and one.change.new_state is not None
    )
    if control is None or job.pencilled is None or not wishes:
        return Made(by_hand=by_hand)
    order = Order(job.pencilled.uuid, job.card.label, user_name(), wishes)
    return Made(tuple(control.switch(order)), by_hand)


def _later_seconds(job: Job) -> int:
    """When what starts later is to start: a while after the PC settled when it was measured."""
    settled = [
        reading.value
        for boots in job.rounds
        for reading in readings_in(boots, Measure.SETTLED)
        if not reading.censored
    ]
    return max(LATER_SECONDS, round(max(settled, default=0.0)) + AFTER_SETTLED_SECONDS)


def _is_ours(change: Change) -> bool:
    return bool(change.entry_id) and change.new_state is not None


def _job(ledger: Ledger, number: int) -> Job:
    with ledger.session() as session:
        return read_job(session, number)


def post(
    ledger: Ledger, number: int, made: Made = Made(), plan: "PlanEstimate | None" = None
) -> int:
    """Write down that the pencilled changes have been made, and what is expected of them.

    Returns the posting's number.
    """
    before = {switched.entry_id: switched.before for switched in made.switched}
    return postings.post(ledger, number, before, plan)


def planned_put_back(
    ledger: Ledger, number: int, posting_number: int | None, entries: Sequence[str] = ()
) -> tuple[Planned, ...]:
    """What putting back would undo on a job's PC, and what is left to be undone by hand.

    Raises:
        Refused: nothing of it is in force.
    """
    job = _job(ledger, number)
    chosen = _put_back_changes(job, posting_number, entries)
    if not chosen:
        raise Refused(TroubleCode.NOTHING_TO_PUT_BACK)
    control, keys = control_of(job), _keys(job, posting_number)
    ours = [change.entry_id for change in chosen if _is_ours(change)]
    found = control.look(ours) if control and ours else {}
    kept = {
        entry
        for change in (control.changes() if control is not None else ())
        if change.key in keys
        for entry in change.entries
    }
    return tuple(
        Planned(
            undoing(change),
            found.get(change.entry_id) if change.entry_id in kept else None,
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
    job = _job(ledger, number)
    chosen = _put_back_changes(job, posting_number, entries)
    control = control_of(job)
    if control is None:
        return chosen
    keys = _keys(job, posting_number)
    if not keys:
        return ()
    undone = control.put_back(Which(keys, tuple(entries)))
    done = {entry.entry_id for entry in undone if not entry.left_at}
    now = control.look([change.entry_id for change in chosen if _is_ours(change)])
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
        if any(c.entry_id == entry_id and not c.put_back and c not in undone
               for c in posting.own_changes):  # fmt: skip
            return posting.number
    return None


def put_back_by_the_journal(cut_off: bool) -> list[PutBack]:
    """Undo everything ever changed on this PC, or only what was cut off, with no ledger at all.

    Raises Trouble.
    """
    return control_of_this_pc().put_back(Which(cut_off=cut_off))


def agree(ledger: Ledger, number: int) -> None:
    """Have a PC and a job's book agree after something cut in between: what was cut off is put
    back, which may ask for the administrator, and the book follows. Raises Trouble.
    """
    control = control_of(_job(ledger, number))
    if control is not None and unfinished(control.changes()):
        control.put_back(Which(cut_off=True))
    follow(ledger, number)


@dataclass(frozen=True)
class Followed:
    """What was found when a job's PC and its book were held against each other."""

    wrote: bool
    """The book was behind and follows now."""
    cut_off: bool
    """Something on the PC was cut off and is to be put back."""


def follow(ledger: Ledger, number: int) -> Followed:
    """Have a job's book follow its PC: post what was made there, strike out what was put back.

    Nothing on the PC is changed.
    """
    job = _job(ledger, number)
    control = control_of(job)
    known = {change.key: change for change in control.changes()} if control else {}
    wrote = False
    if job.pencilled is not None and _is_made(job.pencilled, known):
        postings.post(ledger, number, only=known[job.pencilled.uuid].entries)
        wrote = True
    for posting in job.postings:
        if posting.posted_at is not None and _is_undone(job, posting, known):
            postings.strike_out(ledger, number, posting.number)
            wrote = True
    return Followed(wrote, bool(unfinished(list(known.values()))))


def _is_made(posting: Posting, known: Mapping[str, Reversible]) -> bool:
    made = known.get(posting.uuid)
    ours = {change.entry_id for change in posting.changes if _is_ours(change)}
    return made is not None and bool(ours) and ours <= set(made.entries)


def _is_undone(job: Job, posting: Posting, known: Mapping[str, Reversible]) -> bool:
    made = known.get(posting.uuid)
    standing = state_of(job, posting) in {PostingState.POSTED, PostingState.IN_FORCE}
    return (
        standing and made is not None and not made.entries and not made.unfinished
        and {c.entry_id for c in posting.own_changes if _is_ours(c)} <= set(made.put_back)
    )  # fmt: skip


def changed_the_pc(job: Job) -> bool:
    """Whether the last posting changed a PC, so that the book alone cannot take it back."""
    last, control = job.last_posted, control_of(job)
    if last is None or control is None:
        return False
    undoes = any(change.put_back for change in last.changes)
    keys = {posting.uuid for posting in job.postings if undoes or posting is last}
    return any(change.key in keys for change in control.changes())
