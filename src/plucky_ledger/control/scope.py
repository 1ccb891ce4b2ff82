"""Switching backend of one scope: the system's units, or one user's units and sign-in programs.

Each scope has its own journal of changes. Requests name entries and states; the files to write are
derived here, by the process that writes them, from what is there at that moment.
"""

import os
import re
from collections.abc import Sequence
from contextlib import suppress
from datetime import UTC, datetime

from plucky_ledger.control.bus_files import BusFiles
from plucky_ledger.control.desktop_entries import SignInPrograms
from plucky_ledger.control.init_scripts import InitScripts
from plucky_ledger.control.journal_of_changes import (
    ChangeStage,
    EntryChange,
    JournalOfChanges,
    LeftOut,
    RecordedChange,
)
from plucky_ledger.control.permitted_writes import PermittedWrites
from plucky_ledger.control.requests import RevertSelection, SwitchRequest
from plucky_ledger.control.service_manager import ServiceManager
from plucky_ledger.control.switching import make, put_back
from plucky_ledger.control.table_lines import TableLines
from plucky_ledger.control.unit_files import UnitFiles
from plucky_ledger.control.unit_writes import UnitWrites
from plucky_ledger.control.writes import FileWrite
from plucky_ledger.core.entries.kinds import (
    Switcher,
    file_name,
    is_of_another,
    switched_by,
)
from plucky_ledger.core.entries.switching import EntryRequest, Switchable, Switched
from plucky_ledger.core.values.reasons import Reason, ReasonCode
from plucky_ledger.core.values.trouble import Refused, Trouble, TroubleCode
from plucky_ledger.linux.bus import NoAnswer
from plucky_ledger.linux.desktops import desktops_of, session_environment
from plucky_ledger.linux.folders import Folders
from plucky_ledger.linux.init_systems.running import init_system
from plucky_ledger.linux.init_systems.script import NAME
from plucky_ledger.linux.users import ADMINISTRATOR

READ_BY_ALL = 0o644
_A_NAME = re.compile(
    r"[\w:.\\@-]+\.(service|timer|desktop)|table:[\w-]+:[0-9a-f]{8}|bus:[\w.-]+\.service:[0-9a-f]{8}"
    rf"|init:{NAME}"
)


class Scope:
    """The system's units, or one user's units and sign-in programs."""

    def __init__(self, owner: str, folders: Folders, manager: ServiceManager | None = None) -> None:
        self._manager = manager or ServiceManager(owner)
        system = owner == "system"
        self._units = UnitFiles(
            self._manager, folders.system_units if system else folders.user_units
        )
        self._programs = None if system else folders.all_autostart
        if system:
            self._tables = TableLines.of_the_system(folders.etc)
            self._bus_files = BusFiles(folders.system_bus_files, of_system=True)
            self._scripts: InitScripts | None = InitScripts(folders.etc.parent)
            self._permitted = PermittedWrites.of_the_system(folders)
            self.journal = JournalOfChanges(
                folders.journal_of_the_system, ADMINISTRATOR, self._permitted, READ_BY_ALL
            )
        else:
            self._tables = TableLines.of_a_user()
            self._bus_files = BusFiles(folders.own_bus_files, of_system=False)
            self._scripts = None
            self._permitted = PermittedWrites.of_a_user(folders)
            self.journal = JournalOfChanges(
                folders.journal_of_changes, os.geteuid(), self._permitted
            )

    def look(self, entry_ids: Sequence[str]) -> list[Switchable]:
        """How entries are set; an entry that cannot be read carries the reason."""
        return self._look_at(entry_ids, self._units.asked_once())

    def _look_at(self, entry_ids: Sequence[str], units: UnitFiles) -> list[Switchable]:
        names = [
            file_name(entry_id)
            for entry_id in entry_ids
            if switched_by(entry_id) in {Switcher.SYSTEM_MANAGER, Switcher.USER_MANAGER}
        ]
        with suppress(NoAnswer):  # one query for all units
            units.known(names)
        return [self._look(entry_id, units) for entry_id in entry_ids]

    def _look(self, entry_id: str, units: UnitFiles) -> Switchable:
        try:
            if switched_by(entry_id) is Switcher.DESKTOP_ENTRIES:
                return self._sign_in_programs.look(entry_id)
            if (lines := self._lines(entry_id)) is not None:
                return lines.look(entry_id)
            return units.look(file_name(entry_id))
        except NoAnswer as silence:
            return Switchable(entry_id=entry_id, state=None, possible=(), cannot=silence.reason)
        except OSError as error:
            unreadable = Reason.of(ReasonCode.UNREADABLE, system=error.strerror or "")
            return Switchable(entry_id=entry_id, state=None, possible=(), cannot=unreadable)

    def _lines(self, entry_id: str) -> TableLines | BusFiles | InitScripts | None:
        """What switches an entry that is no unit and no sign-in program."""
        switchers: dict[Switcher, TableLines | BusFiles | InitScripts | None] = {
            Switcher.TABLES: self._tables,
            Switcher.BUS_FILES: self._bus_files,
            Switcher.INIT_SCRIPTS: self._scripts,
        }
        return switchers.get(switched_by(entry_id))

    def _tell(self) -> None:
        """The service manager and the message bus read what was written; an init system reads it
        when the PC starts.
        """
        if init_system() is None:
            self._manager.reload()
        if any(
            switched_by(e.entry) is Switcher.BUS_FILES for c in self.changes() for e in c.entries
        ):
            self._manager.reload_bus()

    @property
    def _sign_in_programs(self) -> SignInPrograms:
        assert self._programs is not None
        return SignInPrograms(self._programs, tuple(desktops_of(session_environment())))

    def switch(self, order: SwitchRequest) -> list[Switched]:
        """Set entries as requested, all or none, and read back how they are set.

        Raises:
            Trouble: one cannot be set so, or not be written; everything is as it was.
        """
        for wish in order.wishes:
            if not is_name_of_an_entry(wish.entry_id):
                raise Refused(TroubleCode.CANNOT_BE_SET, name=wish.entry_id, state=wish.state.value)
        asked = [wish.entry_id for wish in order.wishes]
        units = self._units.asked_once()
        before = self._look_at(asked, units)
        try:
            make(self.journal, lambda: self._planned(order, units), self._tell)
        except NoAnswer as silence:
            raise Trouble(TroubleCode.MANAGER_SILENT, because=(silence.reason,)) from silence
        return [
            Switched(wish.entry_id, wish.name, was.state, now.state, now.started_by)
            for wish, was, now in zip(order.wishes, before, self.look(asked), strict=True)
        ]

    def _planned(self, order: SwitchRequest, units: UnitFiles) -> RecordedChange:
        return RecordedChange(
            key=order.key,
            at=datetime.now(UTC).isoformat(timespec="seconds"),
            by=order.by,
            job=order.job,
            entries=tuple(
                EntryChange(
                    wish.entry_id,
                    wish.name,
                    self._look(wish.entry_id, units).state,
                    wish.state,
                    tuple(self._writes(wish, units)),
                )
                for wish in order.wishes
            ),
        )

    def _writes(self, wish: EntryRequest, units: UnitFiles) -> list[FileWrite]:
        writes = self._needed_writes(wish, units)
        if not self._permitted.permit(writes):
            raise Refused(TroubleCode.CANNOT_BE_SET, name=wish.entry_id, state=wish.state.value)
        return writes

    def _needed_writes(self, wish: EntryRequest, units: UnitFiles) -> list[FileWrite]:
        if switched_by(wish.entry_id) is Switcher.DESKTOP_ENTRIES:
            return self._sign_in_programs.writes(wish.entry_id, wish.state, wish.later_seconds)
        if (lines := self._lines(wish.entry_id)) is not None:
            return lines.writes(wish.entry_id, wish.state)
        name = file_name(wish.entry_id)
        return UnitWrites(units).of(name, wish.state, wish.later_seconds)

    def put_back(
        self, which: RevertSelection, *, leave_changed_again: bool = False
    ) -> list[EntryChange]:
        """Undo changes, and what was interrupted; returns what was undone. Raises Trouble.

        With ``leave_changed_again`` an entry that was changed again since stays as it is.
        """
        return put_back(
            self.journal,
            which.selects,
            self._tell,
            leave_changed_again=leave_changed_again,
        )

    def changes(self) -> list[RecordedChange]:
        """All changes ever made here, the oldest first."""
        return [change for _, change in self.journal.read()]

    def left_out(self) -> list[LeftOut]:
        """Journal files that are not trusted."""
        self.journal.read()
        return list(self.journal.left_out)


def is_in_force(changes: Sequence[RecordedChange], which: RevertSelection) -> bool:
    """Whether any recorded change can be put back."""
    return any(
        entry.stage is not ChangeStage.PUT_BACK
        and (which.selects(change, entry) or entry.stage is not ChangeStage.DONE)
        for change in changes
        for entry in change.entries
    )


def is_name_of_an_entry(entry_id: str) -> bool:
    """Whether this is the id of an entry that can be switched, and no path or option."""
    return not is_of_another(entry_id) and bool(_A_NAME.fullmatch(file_name(entry_id)))
