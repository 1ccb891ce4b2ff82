"""A job: one PC in the workshop's care, its rounds of boots and its postings."""

from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum

from plucky_ledger.core.boots.boot import Boot, counted
from plucky_ledger.core.measures import Measure, Reading
from plucky_ledger.core.pc.facts import Facts


class ChangeKind(StrEnum):
    """What kind of thing was done to the PC."""

    STARTUP_ENTRY = "startup entry"
    PROGRAM_SETTING = "a program's own setting"
    SERVICE_START_MODE = "a service's start mode"
    BOOT_OPTION = "boot option"
    FAST_START = "fast-start hibernation"
    SWAP = "page file or swap"
    POWER_OR_EFFECTS = "power or effects setting"
    DRIVER = "driver"
    PROGRAM_REMOVED = "removed program"
    DISK_SPACE = "freed disk space"
    DISK_CHECK = "disk check"
    CACHE = "cache clearing"
    MALWARE_SCAN = "malware scan"
    MEMORY = "more memory"
    SOLID_STATE_DRIVE = "solid-state drive"
    OTHER = "something else"


class EntryState(StrEnum):
    """How a startup entry is set."""

    ON = "on"
    OFF = "switched off"
    LATER = "starts later"


@dataclass(frozen=True)
class Change:
    """One thing done to the PC."""

    kind: ChangeKind
    what: str
    why: str = ""
    entry_id: str = ""
    """The startup entry it is about, if it is about one."""
    new_state: EntryState | None = None
    """How that entry is set from then on."""


class PostingState(StrEnum):
    """How far a posting has come."""

    PENCILLED = "pencilled"
    POSTED = "posted"
    IN_FORCE = "in force"
    STRUCK_OUT = "struck out"


@dataclass(frozen=True)
class Posting:
    """The changes made together before one restart."""

    number: int
    """Number in the ledger."""
    changes: tuple[Change, ...]
    title: str = ""
    """Particulars as typed; empty means: made from the changes."""
    posted_at: datetime | None = None
    """When the changes were made, in UTC; None while pencilled."""
    strikes_out: int | None = None
    """Number of the posting that this one puts back."""
    boots: tuple[Boot, ...] = ()
    """The round recorded under it, oldest first."""

    @property
    def particulars(self) -> str:
        """What was done, in one line."""
        if self.title:
            return self.title
        if len(self.changes) == 1:
            return self.changes[0].what
        if not self.changes:
            return "No change written down yet"
        return f"{self.changes[0].what} and {len(self.changes) - 1} more"


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

    @property
    def rounds(self) -> tuple[tuple[Boot, ...], ...]:
        """The opening round, then the round of each posting."""
        return (self.opening_boots, *(posting.boots for posting in self.postings))

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
    undone = {p.strikes_out for p in job.postings if p.posted_at is not None}
    if posting.number in undone:
        return PostingState.STRUCK_OUT
    return PostingState.IN_FORCE if posting.boots else PostingState.POSTED


def waits_for_something(job: Job) -> bool:
    """Something is pencilled, or posted and not yet seen in a boot."""
    waiting = {PostingState.PENCILLED, PostingState.POSTED}
    return any(state_of(job, posting) in waiting for posting in job.postings)


def readings_in(boots: tuple[Boot, ...], measure: Measure) -> list[Reading]:
    """Readings of the boots that count and have this measure."""
    return [boot.readings[measure] for boot in counted(boots) if measure in boot.readings]
