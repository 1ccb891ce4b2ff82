"""What is ordered of a place: entries to be set, and changes to be put back."""

from typing import TYPE_CHECKING

import msgspec

from plucky_ledger.core.entries.switching import EntryRequest

if TYPE_CHECKING:
    from plucky_ledger.control.journal_of_changes import EntryChange, RecordedChange


class SwitchRequest(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What is to be changed together."""

    key: str
    """Of the posting it is for."""
    job: str
    """Label of the job."""
    by: str
    """User who wishes it."""
    wishes: tuple[EntryRequest, ...]


class RevertSelection(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Which changes are to be put back; without any key those of all postings."""

    keys: tuple[str, ...] = ()
    entries: tuple[str, ...] = ()
    """Of these only; all without any."""
    cut_off: bool = False
    """Only what was cut off."""

    def selects(self, change: "RecordedChange", entry: "EntryChange") -> bool:
        """Whether this is one of them."""
        return (
            not self.cut_off
            and (not self.keys or change.key in self.keys)
            and (not self.entries or entry.entry in self.entries)
        )
