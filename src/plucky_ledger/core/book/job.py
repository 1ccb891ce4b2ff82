"""A job: one PC in the workshop's care, its rounds of boots and its postings."""

from dataclasses import dataclass, field, replace
from datetime import datetime
from enum import StrEnum
from math import isfinite

from plucky_ledger.core.advice.advised import Advised
from plucky_ledger.core.boots.boot import Boot, counted
from plucky_ledger.core.cost.estimate import Estimate
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.measures import Measure, Reading
from plucky_ledger.core.pc.condition import Inspected
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.pc.which import THIS_OR_ANOTHER, WhichPc


class ChangeKind(StrEnum):
    """What kind of thing was done to the PC."""

    STARTUP_ENTRY = "startup_entry"
    PROGRAM_SETTING = "program_setting"
    SERVICE_START_MODE = "service_start_mode"
    BOOT_OPTION = "boot_option"
    FAST_START = "fast_start"
    SWAP = "swap"
    POWER_OR_EFFECTS = "power_or_effects"
    DRIVER = "driver"
    PROGRAM_ADDED = "program_added"
    PROGRAM_REMOVED = "program_removed"
    UPDATE = "update"
    DISK_SPACE = "disk_space"
    DISK_CHECK = "disk_check"
    CACHE = "cache"
    MALWARE_SCAN = "malware_scan"
    MEMORY = "memory"
    SOLID_STATE_DRIVE = "solid_state_drive"
    OTHER = "other"


HAVE_A_VALUE = frozenset(
    {
        ChangeKind.SWAP,
        ChangeKind.MEMORY,
        ChangeKind.DISK_SPACE,
        ChangeKind.CACHE,
        ChangeKind.POWER_OR_EFFECTS,
        ChangeKind.BOOT_OPTION,
        ChangeKind.SOLID_STATE_DRIVE,
        ChangeKind.DRIVER,
        ChangeKind.SERVICE_START_MODE,
        ChangeKind.FAST_START,
    }
)
"""Kinds of change that have a value before and after."""


@dataclass(frozen=True)
class Change:
    """One thing done to the PC."""

    kind: ChangeKind
    what: str
    """What was done as it was typed; for a startup entry, the entry's name."""
    why: str = ""
    entry_id: str = ""
    """The startup entry it is about, if it is about one."""
    new_state: EntryState | None = None
    """How that entry is set from then on."""
    old_state: EntryState | None = None
    """How it was set before, where the PC itself told."""
    put_back: bool = False
    """It undoes what ``what`` tells."""
    outside: bool = False
    """Somebody else made it, or the PC itself: noticed afterwards, and not ours to undo."""
    before: str = ""
    """Value before, as it was read or typed, such as "2.1 GB"."""
    after: str = ""


def undoing(change: Change, why: str = "") -> Change:
    """The change that undoes one."""
    state = (change.old_state or EntryState.ON) if change.entry_id else None
    return replace(
        change, why=why, new_state=state, old_state=change.new_state, put_back=True,
        before=change.after, after=change.before,
    )  # fmt: skip


class PostingState(StrEnum):
    """How far a posting has come."""

    PENCILLED = "pencilled"
    POSTED = "posted"
    IN_FORCE = "in_force"
    STRUCK_OUT = "struck_out"


@dataclass(frozen=True)
class Posting:
    """The changes made together before one restart."""

    number: int
    """Number in the ledger."""
    changes: tuple[Change, ...]
    title: str = ""
    """Particulars as typed; empty means: told by the changes."""
    posted_at: datetime | None = None
    """When the changes were made, in UTC; None while pencilled."""
    posted_in_boot: str = ""
    """The kernel's name for the boot in which they were made; empty where it was on another PC."""
    strikes_out: int | None = None
    """Number of the posting that this one puts back."""
    boots: tuple[Boot, ...] = ()
    """The round recorded under it, oldest first."""
    uuid: str = ""
    """The same in every ledger; empty until it is in one."""
    expected: dict[Measure, Estimate] = field(default_factory=dict)
    """What was expected of it when it was posted: where the balance would stand."""
    opens_visit: bool = False
    """The PC came in again: its round is a new opening, held against the last closing."""

    @property
    def own_changes(self) -> tuple[Change, ...]:
        """Those that were made here, which can be undone here."""
        return tuple(change for change in self.changes if not change.outside)


State = frozenset[tuple[str, ...]]
"""A state of the PC: what is different from how it was found (see core.book.pc_states)."""


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


@dataclass(frozen=True)
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
    inspected: Inspected | None = None
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
