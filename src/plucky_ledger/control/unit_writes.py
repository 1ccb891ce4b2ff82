"""File writes that switch units: links, masks, drop-ins and timers, in the order of writing.

Written by us and not by the manager, so that every path is in the journal before it changes.
systemd.unit(5), systemctl(1), systemd.timer(5).
"""

import os
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from pathlib import Path

from plucky_ledger.control.service_manager import BY_NEED, ManagedUnit
from plucky_ledger.control.unit_files import NULL, UnitFiles, is_null, later_timer
from plucky_ledger.control.writes import NOTHING, Content, File, FileWrite, Link, write_of
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.values.trouble import Refused, TroubleCode

_OFF_FOR_GOOD = """\
# Written by Plucky Ledger: nothing may start this unit. To undo it: plucky-ledger put-back
[Unit]
ConditionPathExists=!/
"""
_LATER = """\
# Written by Plucky Ledger: the unit starts some time later. To undo it: plucky-ledger put-back
[Unit]
Description={name} some time after the start

[Timer]
OnStartupSec={seconds}
AccuracySec=1s
Unit={name}
"""


@dataclass(frozen=True)
class UnitWrites:
    """Derives the writes for the units of one service manager."""

    units: UnitFiles

    def of(self, name: str, state: EntryState, later_seconds: int) -> list[FileWrite]:
        """The writes that set a unit to a state, in the order of writing.

        Raises:
            Refused: it cannot be set so.
            NoAnswer, OSError: what is there cannot be read.
        """
        unit = self.units.unit(name)
        subject = unit and self.units.subject(unit)
        if unit is None or subject is None:
            raise Refused(TroubleCode.CANNOT_BE_SET, name=name, state=state.value)
        if state not in self.units.possible(subject, subject is not unit)[0]:
            raise Refused(TroubleCode.CANNOT_BE_SET, name=name, state=state.value)
        if state is EntryState.AS_DELIVERED:
            state = self.units.delivered(subject) or EntryState.ON
        contents: dict[Path, Content] = {}
        if state is EntryState.LATER:
            timer = self.units.folder / later_timer(subject.name)
            text = _LATER.format(name=subject.name, seconds=later_seconds)
            contents[timer] = File(text)
            contents[self.units.folder / "timers.target.wants" / timer.name] = Link(str(timer))
        else:
            contents |= dict.fromkeys(self.units.own_timer(subject), NOTHING)
        if state is EntryState.ON:
            contents |= self._switched_on(subject)
        elif state is EntryState.OFF or state is EntryState.OFF_FOR_GOOD:
            contents |= self._switched_off(subject)
        else:
            contents |= self._off_by_links(subject.name)
            contents |= self._reachable(subject)
        contents |= self._for_good(subject, state is EntryState.OFF_FOR_GOOD)
        return [write for path, content in contents.items() for write in write_of(path, content)]

    def _switched_on(self, unit: ManagedUnit) -> dict[Path, Content]:
        """Links as the unit's file asks for, of what is switched with it as well."""
        contents: dict[Path, Content] = {}
        for one in self._together(unit):
            for where, there in self.units.links(one.name).items():
                if there.parent.parent == self.units.folder and is_null(there):
                    contents[self.units.folder / where / one.name] = NOTHING
            install = self.units.install(one)
            contents |= self._linked(one, (*install.links, *install.aliases))
        return contents

    def _switched_off(self, unit: ManagedUnit) -> dict[Path, Content]:
        """Removes all links to the unit and to what is switched with it; links in folders of
        others are overridden with /dev/null.
        """
        contents: dict[Path, Content] = {}
        for one in self._together(unit):
            contents |= self._off_by_links(one.name)
            contents |= dict.fromkeys(self.units.aliases(one.name), NOTHING)
        return contents

    def _off_by_links(self, name: str) -> dict[Path, Content]:
        """Removes the unit from what wants it: own links are deleted, those in other folders
        overridden with /dev/null.
        """
        contents: dict[Path, Content] = {}
        for where, link in self.units.live(name).items():
            own = self.units.folder / where / name
            elsewhere = link.parent.parent != self.units.folder or any(
                os.path.lexists(folder / where / name)
                for folder in self.units.folders
                if folder != self.units.folder
            )
            contents[own] = NULL if elsewhere else NOTHING
        return contents

    def _reachable(self, unit: ManagedUnit) -> dict[Path, Content]:
        """Content that restores its aliases and the links of its sockets, paths and bus names."""
        contents = self._linked(unit, self.units.install(unit).aliases)
        names = [name for name in unit.triggered_by if name.endswith(BY_NEED)]
        for trigger in self.units.known(names).values():
            contents |= self._linked(trigger, self.units.install(trigger).links)
        return contents

    def _linked(self, unit: ManagedUnit, links: Iterable[str]) -> dict[Path, Content]:
        """Links to a unit, those that are there left as they are."""
        return {
            self.units.folder / link: Link(unit.fragment)
            for link in links
            if not self._leads_anywhere(self.units.folder / link)
        }

    def _together(self, unit: ManagedUnit) -> Iterable[ManagedUnit]:
        """The unit with those in its Also= list, and the sockets and paths that start it."""
        names = list(self.units.install(unit).also)
        also = self.units.known(names).values() if names else ()
        every = (unit, *also, *self.units.triggers(unit))
        return {one.name: one for one in every}.values()

    def _for_good(self, unit: ManagedUnit, wanted: bool) -> Mapping[Path, Content]:
        """A mask; where the unit's own file is in the way of one, a drop-in with a condition that
        never holds.
        """
        mask, drop_in = self.units.folder / unit.name, self.units.drop_in(unit.name)
        is_masked = mask.is_symlink() and is_null(mask)
        if not wanted:
            return {drop_in: NOTHING, **({mask: NOTHING} if is_masked else {})}
        if is_masked or not os.path.lexists(mask):
            return {mask: NULL}
        return {drop_in: File(_OFF_FOR_GOOD)}

    def _leads_anywhere(self, link: Path) -> bool:
        return os.path.lexists(link) and not is_null(link)
