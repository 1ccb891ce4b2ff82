"""A job: one PC in the workshop's care, its rounds of boots and its postings."""

from dataclasses import dataclass
from datetime import datetime
from math import isfinite
from typing import TYPE_CHECKING

from plucky_ledger.core.boots.boot import Boot, counted
from plucky_ledger.core.job.advised import Advised
from plucky_ledger.core.job.changes import Change
from plucky_ledger.core.job.postings import Posting, PostingState
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.pc.which import THIS_OR_ANOTHER, WhichPc
from plucky_ledger.core.values.measures import Measure, Reading

if TYPE_CHECKING:
    from plucky_ledger.core.pc.condition import Inspected

State = frozenset[tuple[str, ...]]
"""A state of the PC: what is different from how it was found (see core.job.pc_states)."""


@dataclass(frozen=True)
class Turns:
    """Boots of two states are taken in turns."""

    states: tuple[State, State]
    """The earlier one first."""
    had: tuple[int, int]
    """Boots that each had when turns were begun."""
    boots: int
    """How many more each is to have."""


@dataclass(frozen=True)
class Card:
    """Whose PC it is and what is complained of."""

    label: str
    """The workshop's job number, as on the owner's label."""
    title: str
    """What the PC is called."""
    owner: str = ""
    complaint: str = ""


@dataclass(frozen=True, kw_only=True)
class Job:
    """One PC in the workshop's care."""

    number: int
    """Number in the ledger."""
    card: Card
    facts: Facts
    taken_in_at: datetime
    opening_boots: tuple[Boot, ...] = ()
    postings: tuple[Posting, ...] = ()
    """In the order in which they were pencilled."""
    pc: WhichPc = THIS_OR_ANOTHER
    uuid: str = ""
    """The same in every ledger."""
    turns: Turns | None = None
    """Boots that are to be taken in turns; None where none are."""
    advised: tuple[Advised, ...] = ()
    """Advice that the owner is to read in the statement."""
    inspected: "Inspected | None" = None
    """What the administrator was told of the PC; None where nobody was asked."""

    @property
    def rounds(self) -> tuple[tuple[Boot, ...], ...]:
        """The opening round, then the round of each posting."""
        return (self.opening_boots, *(posting.boots for posting in self.postings))

    @property
    def boots(self) -> tuple[Boot, ...]:
        """All boots, round by round."""
        return tuple(boot for boots in self.rounds for boot in boots)

    @property
    def pencilled(self) -> Posting | None:
        """The posting that is planned and not yet made, if there is one."""
        return next((p for p in self.postings if p.posted_at is None), None)

    @property
    def last_posted(self) -> Posting | None:
        """The posting whose state the PC is in now; None while it is as it was taken in."""
        done = [posting for posting in self.postings if posting.posted_at is not None]
        return done[-1] if done else None


def state_of(job: Job, posting: Posting) -> PostingState:
    """How far a posting has come; derived, so that it cannot contradict the boots."""
    if posting.posted_at is None:
        return PostingState.PENCILLED
    undone = put_back_since(job, posting)
    if is_struck_out(job, posting) or (undone and len(undone) == len(posting.own_changes)):
        return PostingState.STRUCK_OUT
    return PostingState.IN_FORCE if posting.boots else PostingState.POSTED


def is_struck_out(job: Job, posting: Posting) -> bool:
    """Whether another posting puts all of this one back."""
    return any(
        other.strikes_out == posting.number for other in job.postings if other.posted_at is not None
    )


def put_back_since(job: Job, posting: Posting) -> tuple[Change, ...]:
    """Changes of a posting that were put back: all by one that strikes it out, or one by one."""
    if is_struck_out(job, posting):
        return posting.own_changes
    undone = {
        _about(change)
        for other in job.postings[job.postings.index(posting) + 1 :]
        if other.posted_at is not None and other.strikes_out is None
        for change in other.changes
        if change.put_back
    }
    return tuple(c for c in posting.own_changes if not c.put_back and _about(c) in undone)


def _about(change: Change) -> tuple[str, str]:
    """What a change is about, by which another undoes it."""
    return (change.entry_id, "") if change.entry_id else (change.kind, change.what)


def changes_in_force(job: Job) -> tuple[Change, ...]:
    """Every change that was posted here and not put back."""
    return tuple(
        change
        for posting in job.postings
        if posting.posted_at is not None and posting.strikes_out is None
        for undone in [put_back_since(job, posting)]
        for change in posting.own_changes
        if not change.put_back and change not in undone
    )


def posting_of(job: Job, number: int) -> Posting | None:
    """The posting of a job with this number."""
    return next((posting for posting in job.postings if posting.number == number), None)


def boot_of(job: Job, number: int) -> Boot | None:
    """The boot of a job with this number."""
    return next((boot for boot in job.boots if boot.number == number), None)


def restart_due(job: Job) -> bool:
    """Whether changes were posted that no boot has been seen under."""
    posted = job.last_posted
    if posted is None or posted.opens_visit:
        return False
    return state_of(job, posted) is PostingState.POSTED


def waits_for_something(job: Job) -> bool:
    """Something is pencilled, or posted and not yet seen in a boot."""
    waiting = {PostingState.PENCILLED, PostingState.POSTED}
    return any(state_of(job, posting) in waiting for posting in job.postings)


def last_visit(job: Job) -> datetime:
    """When the PC came in last."""
    visits = [p.posted_at for p in job.postings if p.opens_visit and p.posted_at is not None]
    return visits[-1] if visits else job.taken_in_at


def readings_in(boots: tuple[Boot, ...], measure: Measure) -> list[Reading]:
    """Readings of the boots that count and have this measure; what is no number is none."""
    return [
        boot.readings[measure]
        for boot in counted(boots)
        if measure in boot.readings and isfinite(boot.readings[measure].value)
    ]
