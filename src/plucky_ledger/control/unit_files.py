"""Switching units by the files that their manager reads: links, masks, drop-ins and timers.

They are written here and not by the manager, so that every one of them is known, and written down,
before it is there. systemd.unit(5), systemctl(1), systemd.timer(5).
"""

import os
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from functools import cached_property
from pathlib import Path

from plucky_ledger.control.install_section import WANTS, Install, install_of
from plucky_ledger.control.service_manager import ServiceManager, Unit, started_by
from plucky_ledger.control.writes import NOTHING, Content, File, Link, Write, write_of
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.entries.switching import LATER_TIMER, Switchable
from plucky_ledger.core.reasons import Reason, ReasonCode
from plucky_ledger.core.trouble import Refused, TroubleCode

NULL = Link("/dev/null")
MAKES_OFF = "50-plucky-ledger-off.conf"
VENDORS = ("/lib/", "/usr/lib/", "/usr/local/lib/")
BY_NEED = (".socket", ".path")
OF_USER = "user:"
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
class UnitFiles:
    """The units of one manager, switched in one folder of theirs."""

    manager: ServiceManager
    folder: Path

    def look(self, name: str) -> Switchable:
        """How a unit is set. Raises NoAnswer and OSError."""
        unit = self._unit(name)
        entry_id = name if self.manager.owner == "system" else f"{OF_USER}{name}"
        if unit is None or unit.load_state == "not-found":
            return Switchable(entry_id, None, (), cannot=Reason(ReasonCode.NOT_FOUND_HERE))
        subject = self._subject(unit)
        possible, cannot = self._possible(subject, subject is not unit)
        own = frozenset({_later_timer(name), subject.name} | self._live_targets(subject))
        return Switchable(
            entry_id,
            self._state(subject),
            possible,
            self._delivered(subject),
            self._started_by(unit, own),
            unit.needed_by,
            self.manager.owner == "system",
            cannot,
        )

    def writes(self, name: str, state: EntryState, later_seconds: int) -> list[Write]:
        """What sets a unit so, in the order in which it is to be written.

        Raises:
            Refused: it cannot be set so.
            NoAnswer, OSError: what is there cannot be read.
        """
        unit = self._unit(name)
        subject = unit and self._subject(unit)
        if unit is None or subject is None:
            raise Refused(TroubleCode.CANNOT_BE_SET, name=name, state=state.value)
        if state not in self._possible(subject, subject is not unit)[0]:
            raise Refused(TroubleCode.CANNOT_BE_SET, name=name, state=state.value)
        if state is EntryState.AS_DELIVERED:
            state = self._delivered(subject) or EntryState.ON
        contents: dict[Path, Content] = {}
        if state is EntryState.LATER:
            timer = self.folder / _later_timer(subject.name)
            text = _LATER.format(name=subject.name, seconds=later_seconds)
            contents[timer] = File(text)
            contents[self.folder / "timers.target.wants" / timer.name] = Link(str(timer))
        else:
            contents |= dict.fromkeys(self._own_timer(subject), NOTHING)
        if state is EntryState.ON:
            contents |= self._switched_on(subject)
        elif state is EntryState.OFF or state is EntryState.OFF_FOR_GOOD:
            contents |= self._switched_off(subject)
        else:
            contents |= self._off_by_links(subject.name)
            contents |= self._reachable(subject)
        contents |= self._for_good(subject, state is EntryState.OFF_FOR_GOOD)
        return [write for path, content in contents.items() for write in write_of(path, content)]

    # What is there.

    def _unit(self, name: str) -> Unit | None:
        return self._known([name]).get(name)

    def _known(self, names: Iterable[str]) -> dict[str, Unit]:
        """Units as their manager knows them; of a masked one the file behind the mask."""
        known = self.manager.units(list(names))
        return {
            name: self._unmasked(unit) if unit.load_state == "masked" else unit
            for name, unit in known.items()
        }

    def _unmasked(self, unit: Unit) -> Unit:
        """What the manager does not read of a masked unit, from the file behind the mask."""
        behind = replace(unit, fragment=self._behind(unit))
        name = self._install(behind).bus_name
        return replace(behind, bus_name=self.manager.called_by_bus(name))

    def _behind(self, unit: Unit) -> str:
        """The file that a mask hides; empty where there is none."""
        stem, found, rest = unit.name.partition("@")
        names = (unit.name, f"{stem}@.{rest.rpartition('.')[2]}") if found else (unit.name,)
        files = (folder / name for name in names for folder in self._folders)
        return next((str(file) for file in files if file.is_file() and not _is_null(file)), "")

    def _subject(self, unit: Unit) -> Unit:
        """The unit to switch: of a service that only a timer starts, the timer."""
        if self._install(unit).says_anything or self._links(unit.name):
            return unit
        own, stem = _later_timer(unit.name), unit.name.rpartition(".")[0]
        timers = [name for name in unit.triggered_by if name.endswith(".timer") and name != own]
        timers = timers or [f"{stem}.timer"]  # one that is off triggers nothing
        timer = self._known(timers[:1]).get(timers[0])
        return unit if timer is None or timer.load_state == "not-found" else timer

    @cached_property
    def _folders(self) -> tuple[Path, ...]:
        """Where the manager looks, from the folder that is written to downwards."""
        path = self.manager.search_path()
        return path[path.index(self.folder) :] if self.folder in path else (self.folder, *path)

    def _install(self, unit: Unit) -> Install:
        fragment = Path(unit.fragment)
        if not unit.fragment or not fragment.is_file():
            return Install()
        return install_of(unit.name, [fragment, *(Path(drop_in) for drop_in in unit.drop_ins)])

    def _links(self, name: str) -> dict[str, Path]:
        """The link that counts in each ``x.target.wants``, those to nothing included."""
        links: dict[str, Path] = {}
        for folder in self._folders:
            for kind in WANTS.values():
                for link in sorted(folder.glob(f"*.{kind}/{_escaped(name)}")):
                    links.setdefault(link.parent.name, link)
        return links

    def _live(self, name: str) -> dict[str, Path]:
        return {where: link for where, link in self._links(name).items() if not _is_null(link)}

    def _live_targets(self, unit: Unit) -> set[str]:
        return {where.rpartition(".")[0] for where in self._live(unit.name)}

    def _aliases(self, name: str) -> list[Path]:
        """Other names of a unit in the folder that is written to."""
        return [
            link
            for link in sorted(self.folder.glob("*"))
            if link.is_symlink() and link.name != name and Path(os.readlink(link)).name == name
        ]

    def _state(self, unit: Unit) -> EntryState | None:
        if any(self._own_timer(unit)) and (self.folder / _later_timer(unit.name)).exists():
            return EntryState.LATER
        if unit.file_state.startswith("masked") or self._drop_in(unit.name).exists():
            return EntryState.OFF_FOR_GOOD
        if self._live(unit.name):
            return EntryState.ON
        install = self._install(unit)
        if not install.says_anything and not self._links(unit.name) and unit.wanted_by:
            return EntryState.ON
        return EntryState.WHEN_NEEDED if self._is_reachable(unit, install) else EntryState.OFF

    def _started_by(self, unit: Unit, other_than: frozenset[str]) -> tuple[Reason, ...]:
        """What starts it besides some others, sockets that are off left out."""
        triggers = tuple(name for name in unit.triggered_by if self._live(name))
        by_bus = unit.bus_name if self._is_called(unit, self._install(unit)) else ""
        return started_by(replace(unit, triggered_by=triggers, bus_name=by_bus), other_than)

    def _is_called(self, unit: Unit, install: Install) -> bool:
        """Whether the bus finds it, which may be by another name of its own."""
        alias = any(os.path.lexists(self.folder / alias) for alias in install.aliases)
        return bool(unit.bus_name) and (alias or not install.aliases)

    def _is_reachable(self, unit: Unit, install: Install) -> bool:
        """Whether a socket, a path or a name on the bus still starts it."""
        return self._is_called(unit, install) or any(
            self._live(name) for name in unit.triggered_by if name.endswith(BY_NEED)
        )

    def _natural(self, unit: Unit, install: Install) -> EntryState:
        """How it is with nothing in its way."""
        starts = install.says_anything or self._links(unit.name) or unit.wanted_by
        return EntryState.ON if starts else EntryState.WHEN_NEEDED

    def _possible(self, unit: Unit, is_timer: bool) -> tuple[tuple[EntryState, ...], Reason | None]:
        install = self._install(unit)
        if install.unknown:
            return (), Reason.of(ReasonCode.UNKNOWN_SPECIFIER, text=install.unknown)
        states = [self._natural(unit, install)]
        if install.says_anything or self._links(unit.name):
            if not unit.bus_name or install.aliases:  # the bus would start it all the same
                states.append(EntryState.OFF)
            if not is_timer and unit.name.endswith(".service"):
                states.append(EntryState.LATER)
        states.append(EntryState.OFF_FOR_GOOD)
        by_need = unit.bus_name or any(name.endswith(BY_NEED) for name in unit.triggered_by)
        if by_need and EntryState.WHEN_NEEDED not in states:
            states.append(EntryState.WHEN_NEEDED)
        if unit.fragment.startswith(VENDORS):
            states.append(EntryState.AS_DELIVERED)
        return tuple(states), None

    def _delivered(self, unit: Unit) -> EntryState | None:
        if not unit.fragment.startswith(VENDORS):
            return None
        install = self._install(unit)
        if not install.says_anything:
            return self._natural(unit, install)
        presets = {"enabled": EntryState.ON, "disabled": EntryState.OFF}
        return presets.get(unit.preset)

    # What is to be there.

    def _switched_on(self, unit: Unit) -> dict[Path, Content]:
        """Links as the unit's file asks for, of what is switched with it as well."""
        contents: dict[Path, Content] = {}
        for one in (unit, *self._also(unit)):
            for where, there in self._links(one.name).items():
                if there.parent.parent == self.folder and _is_null(there):
                    contents[self.folder / where / one.name] = NOTHING
            install = self._install(one)
            contents |= self._linked(one, (*install.links, *install.aliases))
        return contents

    def _switched_off(self, unit: Unit) -> dict[Path, Content]:
        """Every link gone, of what is switched with it as well; those of others led to nothing."""
        contents: dict[Path, Content] = {}
        for one in (unit, *self._also(unit)):
            contents |= self._off_by_links(one.name)
            contents |= dict.fromkeys(self._aliases(one.name), NOTHING)
        return contents

    def _off_by_links(self, name: str) -> dict[Path, Content]:
        """What wants it no longer does: own links gone, those in other folders led to nothing."""
        contents: dict[Path, Content] = {}
        for where, link in self._live(name).items():
            own = self.folder / where / name
            elsewhere = link.parent.parent != self.folder or any(
                os.path.lexists(folder / where / name)
                for folder in self._folders
                if folder != self.folder
            )
            contents[own] = NULL if elsewhere else NOTHING
        return contents

    def _reachable(self, unit: Unit) -> dict[Path, Content]:
        """Its sockets, paths and other names are there."""
        contents = self._linked(unit, self._install(unit).aliases)
        names = [name for name in unit.triggered_by if name.endswith(BY_NEED)]
        for trigger in self._known(names).values():
            contents |= self._linked(trigger, self._install(trigger).links)
        return contents

    def _linked(self, unit: Unit, links: Iterable[str]) -> dict[Path, Content]:
        """Links to a unit, those that are there left as they are."""
        return {
            self.folder / link: Link(unit.fragment)
            for link in links
            if not self._leads_anywhere(self.folder / link)
        }

    def _also(self, unit: Unit) -> Iterable[Unit]:
        names = list(self._install(unit).also)
        return self._known(names).values() if names else ()

    def _for_good(self, unit: Unit, wanted: bool) -> Mapping[Path, Content]:
        """A mask, or where the unit's own file lies in its place a condition that never holds."""
        mask, drop_in = self.folder / unit.name, self._drop_in(unit.name)
        is_masked = mask.is_symlink() and _is_null(mask)
        if not wanted:
            return {drop_in: NOTHING, **({mask: NOTHING} if is_masked else {})}
        if is_masked or not os.path.lexists(mask):
            return {mask: NULL}
        return {drop_in: File(_OFF_FOR_GOOD)}

    def _own_timer(self, unit: Unit) -> list[Path]:
        timer = self.folder / _later_timer(unit.name)
        return [self.folder / "timers.target.wants" / timer.name, timer]

    def _drop_in(self, name: str) -> Path:
        return self.folder / f"{name}.d" / MAKES_OFF

    def _leads_anywhere(self, link: Path) -> bool:
        return os.path.lexists(link) and not _is_null(link)


def _later_timer(name: str) -> str:
    return f"{LATER_TIMER}{name.rpartition('.')[0]}.timer"


def _is_null(link: Path) -> bool:
    return link.is_symlink() and os.readlink(link) == NULL.target


def _escaped(name: str) -> str:
    """For a pattern of file names."""
    return "".join(f"[{char}]" if char in "*?[" else char for char in name)
