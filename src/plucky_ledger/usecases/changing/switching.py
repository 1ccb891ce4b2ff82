"""Posting pencilled changes: the PC is changed first, then the book.

Both carry the posting's UUID. After an interruption ``recover_interrupted_switch`` finds out by it
what was done, and the book follows the PC.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING

from plucky_ledger.control.requests import RevertSelection, SwitchRequest
from plucky_ledger.core.entries.switching import (
    LATER_SECONDS,
    EntryRequest,
    Reversible,
    Switchable,
    Switched,
    unfinished,
)
from plucky_ledger.core.job.changes import Change
from plucky_ledger.core.job.job import Job, readings_in, state_of
from plucky_ledger.core.job.postings import Posting, PostingState
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.core.values.reasons import Reason
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.linux.users import user_name
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.changing import postings
from plucky_ledger.usecases.changing.control import control_of
from plucky_ledger.usecases.jobs.jobs import read_job

if TYPE_CHECKING:
    from plucky_ledger.core.replay.startup_cost import PlanEstimate

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
    control = control_of(read_job(ledger, number))
    return control.look([entry_id])[entry_id] if control is not None else None


def planned(ledger: Ledger, number: int) -> tuple[Planned, ...]:
    """What posting would change on a job's PC, and what is left to be done by hand.

    Raises:
        Refused: nothing is pencilled.
    """
    return _planned(read_job(ledger, number))


def _planned(job: Job) -> tuple[Planned, ...]:
    if job.pencilled is None:
        raise Refused(TroubleCode.NOTHING_PENCILLED_TO_POST)
    control = control_of(job)
    changes = job.pencilled.changes
    ours = [change.entry_id for change in changes if is_switched(change)]
    found = control.look(ours) if control and ours else {}
    return tuple(Planned(change, found.get(change.entry_id)) for change in changes)


def switch_pencilled(ledger: Ledger, number: int, shown: tuple[Planned, ...] = ()) -> Made:
    """Make the pencilled changes that can be made from here; takes as long as somebody is asked.

    ``shown`` is what ``planned`` told and somebody agreed to: the PC is not asked again for it.

    Raises:
        Trouble: one of them could not be made; the PC is as it was.
    """
    job = read_job(ledger, number)
    control, pencilled = control_of(job), job.pencilled
    agreed = pencilled is not None and pencilled.changes == tuple(one.change for one in shown)
    changes = shown if agreed else _planned(job)
    if not job.opening_boots:
        raise Refused(TroubleCode.NO_OPENING)
    by_hand = tuple(one.change for one in changes if one.by_hand)
    later = _later_seconds(job)
    wishes = tuple(
        EntryRequest(one.change.entry_id, one.change.what, one.change.new_state, later)
        for one in changes
        if not one.by_hand and one.change.new_state is not None
    )
    if control is None or job.pencilled is None or not wishes:
        return Made(by_hand=by_hand)
    order = SwitchRequest(job.pencilled.uuid, job.card.label, user_name(), wishes)
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


def is_switched(change: Change) -> bool:
    """Whether a change is one of how an entry starts."""
    return bool(change.entry_id) and change.new_state is not None


def post(
    ledger: Ledger, number: int, made: Made = Made(), plan: "PlanEstimate | None" = None
) -> int:
    """Write down that the pencilled changes have been made, and what is expected of them.

    Returns the posting's number.
    """
    before = {switched.entry_id: switched.before for switched in made.switched}
    return postings.post(ledger, number, before, plan)


def recover_interrupted_switch(ledger: Ledger, number: int) -> None:
    """Have a PC and a job's book agree after something cut in between: what was cut off is put
    back, which may ask for the administrator, and the book follows. Raises Trouble.
    """
    control = control_of(read_job(ledger, number))
    if control is not None and unfinished(control.changes()):
        control.put_back(RevertSelection(cut_off=True))
    follow(ledger, number)


@dataclass(frozen=True)
class Followed:
    """What was found when a job's PC and its book were held against each other."""

    wrote: bool
    """The book was behind and follows now."""
    cut_off: bool
    """Something on the PC was cut off and is to be put back."""
    left_out: tuple[Reason, ...] = ()
    """Files of the PC's journals of changes that are not believed, each with why."""


def follow(ledger: Ledger, number: int) -> Followed:
    """Have a job's book follow its PC: post what was made there, strike out what was put back.

    Nothing on the PC is changed.
    """
    job = read_job(ledger, number)
    control = control_of(job)
    recorded = {change.key: change for change in control.changes()} if control else {}
    wrote = False
    if job.pencilled is not None and _is_made(job.pencilled, recorded):
        postings.post(ledger, number, only=recorded[job.pencilled.uuid].entries)
        wrote = True
    for posting in job.postings:
        if posting.posted_at is not None and _is_undone(job, posting, recorded):
            postings.strike_out(ledger, number, posting.number)
            wrote = True
    left_out = tuple(control.left_out()) if control else ()
    return Followed(wrote, bool(unfinished(list(recorded.values()))), left_out)


def _is_made(posting: Posting, known: Mapping[str, Reversible]) -> bool:
    made = known.get(posting.uuid)
    ours = {change.entry_id for change in posting.changes if is_switched(change)}
    return made is not None and bool(ours) and ours <= set(made.entries)


def _is_undone(job: Job, posting: Posting, known: Mapping[str, Reversible]) -> bool:
    made = known.get(posting.uuid)
    standing = state_of(job, posting) in {PostingState.POSTED, PostingState.IN_FORCE}
    return (
        standing
        and made is not None
        and not made.entries
        and not made.unfinished
        and {c.entry_id for c in posting.own_changes if is_switched(c)} <= set(made.put_back)
    )


def changed_the_pc(job: Job) -> bool:
    """Whether the last posting changed a PC, so that the book alone cannot take it back."""
    last, control = job.last_posted, control_of(job)
    if last is None or control is None:
        return False
    undoes = any(change.put_back for change in last.changes)
    keys = {posting.uuid for posting in job.postings if undoes or posting is last}
    return any(change.key in keys for change in control.changes())
