"""Scope of another user, for the administrator: switched by a process that has become that user, so
that nothing of theirs is read or written with the administrator's rights.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from plucky_ledger.control.journal_of_changes import EntryChange, LeftOut, RecordedChange
from plucky_ledger.control.requests import RevertSelection, SwitchRequest
from plucky_ledger.control.scope import Scope
from plucky_ledger.core.entries.switching import Switchable, Switched
from plucky_ledger.linux.as_user import as_user


@dataclass(frozen=True)
class UserScope:
    """The methods of ``Scope``, run in a process with that user's rights. All raise Trouble."""

    user: int

    def look(self, entry_ids: Sequence[str]) -> list[Switchable]:
        """How entries are set."""
        return as_user(
            self.user, lambda folders: Scope("user", folders).look(entry_ids), list[Switchable]
        )

    def switch(self, order: SwitchRequest) -> list[Switched]:
        """Set entries as requested, all or none."""
        return as_user(
            self.user, lambda folders: Scope("user", folders).switch(order), list[Switched]
        )

    def put_back(self, which: RevertSelection) -> list[EntryChange]:
        """Undo changes."""
        return as_user(
            self.user, lambda folders: Scope("user", folders).put_back(which), list[EntryChange]
        )

    def changes(self) -> list[RecordedChange]:
        """All changes ever made there, the oldest first."""
        return as_user(
            self.user, lambda folders: Scope("user", folders).changes(), list[RecordedChange]
        )

    def left_out(self) -> list[LeftOut]:
        """Journal files that are not trusted."""
        return as_user(self.user, lambda folders: Scope("user", folders).left_out(), list[LeftOut])
