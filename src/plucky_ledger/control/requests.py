"""Requests to a switching backend: entries to set, and changes to put back."""

from typing import TYPE_CHECKING

import msgspec

from plucky_ledger.core.entries.switching import EntryRequest

if TYPE_CHECKING:
    from plucky_ledger.control.journal_of_changes import EntryChange, RecordedChange


class SwitchRequest(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Entries to be set together, all or none."""

    key: str
    """UUID of the posting it is for."""
    job: str
    """Label of the job."""
    by: str
    """Name of the user who requested it."""
    wishes: tuple[EntryRequest, ...]


class RevertSelection(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Which changes are to be put back; without any key those of all postings."""

    keys: tuple[str, ...] = ()
    entries: tuple[str, ...] = ()
    """Ids of the entries it is limited to; empty for all."""
    cut_off: bool = False
    """Only changes that were interrupted."""

    def selects(self, change: "RecordedChange", entry: "EntryChange") -> bool:
        """Whether an entry of a change is selected."""
        return (
            not self.cut_off
            and (not self.keys or change.key in self.keys)
            and (not self.entries or entry.entry in self.entries)
        )
