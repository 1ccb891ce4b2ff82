"""Postings: the changes made together before one restart."""

from dataclasses import dataclass, field
from datetime import datetime
from enum import StrEnum

from plucky_ledger.core.boots.boot import Boot
from plucky_ledger.core.job.changes import Change
from plucky_ledger.core.values.estimates import Estimate
from plucky_ledger.core.values.measures import Measure


class PostingState(StrEnum):
    """How far a posting has come."""

    PENCILLED = "pencilled"
    POSTED = "posted"
    IN_FORCE = "in_force"
    STRUCK_OUT = "struck_out"


@dataclass(frozen=True, kw_only=True)
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
    series: str = ""
    """Name of the night shift in which it was made; empty where it was made by hand."""

    @property
    def own_changes(self) -> tuple[Change, ...]:
        """Those that were made here, which can be undone here."""
        return tuple(change for change in self.changes if not change.outside)
