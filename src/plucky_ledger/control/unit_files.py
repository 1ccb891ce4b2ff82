"""State of units, from the files their service manager reads: links, masks, drop-ins and timers.

systemd.unit(5), systemctl(1).
"""

import os
from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import cached_property
from pathlib import Path

from plucky_ledger.control.install_section import WANTS, Install, install_of
from plucky_ledger.control.service_manager import BY_NEED, ManagedUnit, ServiceManager, started_by
from plucky_ledger.control.writes import Link
from plucky_ledger.core.entries.kinds import id_of_unit, is_service
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.entries.switching import LATER_TIMER, Switchable
from plucky_ledger.core.values.reasons import Reason, ReasonCode

NULL = Link("/dev/null")
MAKES_OFF = "50-plucky-ledger-off.conf"
VENDORS = ("/lib/", "/usr/lib/", "/usr/local/lib/")


@dataclass(frozen=True)
class UnitFiles:
    """The units of one service manager; ``folder`` is where they are switched."""

    manager: ServiceManager
    folder: Path
    told: dict[str, ManagedUnit | None] | None = None
    """Cache of the manager's answers, for as long as each unit is queried once; None to query every
    time."""

    def asked_once(self) -> "UnitFiles":
        """The same with each unit queried once, for as long as nothing is changed."""
        return replace(self, told={})

    def look(self, name: str) -> Switchable:
        """How a unit is set. Raises NoAnswer and OSError."""
        unit = self.unit(name)
        entry_id = id_of_unit(name, self.manager.owner == "system")
        if unit is None or unit.load_state == "not-found":
            return Switchable(
                entry_id=entry_id, state=None, possible=(), cannot=Reason(ReasonCode.NOT_FOUND_HERE)
            )
        subject = self.subject(unit)
        possible, cannot = self.possible(subject, subject is not unit)
        own = frozenset({later_timer(name), subject.name} | self._live_targets(subject))
        return Switchable(
            entry_id=entry_id,
            state=self._state(subject),
            possible=possible,
            delivered=self.delivered(subject),
            started_by=self._started_by(unit, own),
            needed_by=unit.needed_by,
            administrators=self.manager.owner == "system",
            cannot=cannot,
        )

    def unit(self, name: str) -> ManagedUnit | None:
        """One unit as its manager knows it; None where there is none."""
        return self.known([name]).get(name)

    def known(self, names: Iterable[str]) -> dict[str, ManagedUnit]:
        """Units as their manager knows them; of a masked one the file behind the mask."""
        names, cached = tuple(names), {} if self.told is None else self.told
        missing = [name for name in names if name not in cached]
        answers = self.manager.units(missing) if missing else {}
        for name in missing:
            unit = answers.get(name)
            masked = unit is not None and unit.load_state == "masked"
            cached[name] = self._unmasked(unit) if unit is not None and masked else unit
        return {name: unit for name in names if (unit := cached[name]) is not None}

    def _unmasked(self, unit: ManagedUnit) -> ManagedUnit:
        """What the manager does not read of a masked unit, from the file behind the mask."""
        behind = replace(unit, fragment=self._behind(unit))
        name = self.install(behind).bus_name
        return replace(behind, bus_name=self.manager.called_by_bus(name))

    def _behind(self, unit: ManagedUnit) -> str:
        """The file that a mask hides; empty where there is none."""
        stem, found, rest = unit.name.partition("@")
        names = (unit.name, f"{stem}@.{rest.rpartition('.')[2]}") if found else (unit.name,)
        files = (folder / name for name in names for folder in self.folders)
        return next((str(file) for file in files if file.is_file() and not is_null(file)), "")

    def subject(self, unit: ManagedUnit) -> ManagedUnit:
        """The unit to switch: of a service that only a timer starts, the timer."""
        if self.install(unit).says_anything or self.links(unit.name):
            return unit
        own, stem = later_timer(unit.name), unit.name.rpartition(".")[0]
        timers = [name for name in unit.triggered_by if name.endswith(".timer") and name != own]
        # One that is off triggers nothing: its file says what it would start.
        timers = timers or self._timers_that_name(unit.name) or [f"{stem}.timer"]
        timer = self.known(timers[:1]).get(timers[0])
        return unit if timer is None or timer.load_state == "not-found" else timer

    def _timers_that_name(self, service: str) -> list[str]:
        files: dict[str, Path] = {}
        for folder in self.folders:
            for file in sorted(folder.glob("*.timer")):
                files.setdefault(file.name, file)
        return [
            name
            for name, file in files.items()
            if file.is_file() and not is_null(file) and install_of(name, [file]).starts == service
        ]

    @cached_property
    def folders(self) -> tuple[Path, ...]:
        """Folders the manager reads, in order of precedence, from the one we write to downwards."""
        path = self.manager.search_path()
        return path[path.index(self.folder) :] if self.folder in path else (self.folder, *path)

    def install(self, unit: ManagedUnit) -> Install:
        """Whether its files say that it is enabled."""
        fragment = Path(unit.fragment)
        if not unit.fragment or not fragment.is_file():
            return Install()
        return install_of(unit.name, [fragment, *(Path(drop_in) for drop_in in unit.drop_ins)])

    def links(self, name: str) -> dict[str, Path]:
        """The link that takes effect in each ``x.target.wants`` folder, links to /dev/null
        included.
        """
        links: dict[str, Path] = {}
        for folder in self.folders:
            for kind in WANTS.values():
                for link in sorted(folder.glob(f"*.{kind}/{_escaped(name)}")):
                    links.setdefault(link.parent.name, link)
        return links

    def live(self, name: str) -> dict[str, Path]:
        """Links to the unit."""
        return {where: link for where, link in self.links(name).items() if not is_null(link)}

    def _live_targets(self, unit: ManagedUnit) -> set[str]:
        return {where.rpartition(".")[0] for where in self.live(unit.name)}

    def aliases(self, name: str) -> list[Path]:
        """Other names of a unit in the folder that is written to."""
        return [
            link
            for link in sorted(self.folder.glob("*"))
            if link.is_symlink() and link.name != name and Path(os.readlink(link)).name == name
        ]

    def _state(self, unit: ManagedUnit) -> EntryState | None:
        if (self.folder / later_timer(unit.name)).exists():
            return EntryState.LATER
        if unit.file_state.startswith("masked") or self.drop_in(unit.name).exists():
            return EntryState.OFF_FOR_GOOD
        if self.live(unit.name):
            return EntryState.ON
        install = self.install(unit)
        if not install.says_anything and not self.links(unit.name) and unit.wanted_by:
            return EntryState.ON
        return EntryState.WHEN_NEEDED if self._is_reachable(unit, install) else EntryState.OFF

    def _started_by(self, unit: ManagedUnit, other_than: frozenset[str]) -> tuple[Reason, ...]:
        """What starts the unit besides the given ones; disabled sockets are left out."""
        triggers = tuple(name for name in unit.triggered_by if self.live(name))
        by_bus = unit.bus_name if self._is_called(unit, self.install(unit)) else ""
        return started_by(replace(unit, triggered_by=triggers, bus_name=by_bus), other_than)

    def _is_called(self, unit: ManagedUnit, install: Install) -> bool:
        """Whether the bus can start it, which may be by an alias."""
        alias = any(os.path.lexists(self.folder / alias) for alias in install.aliases)
        return bool(unit.bus_name) and (alias or not install.aliases)

    def _is_reachable(self, unit: ManagedUnit, install: Install) -> bool:
        """Whether a socket, a path or a bus name still activates the unit."""
        return self._is_called(unit, install) or any(
            self.live(name) for name in unit.triggered_by if name.endswith(BY_NEED)
        )

    def _natural(self, unit: ManagedUnit, install: Install) -> EntryState:
        """Its state without any mask, drop-in or removed link."""
        starts = install.says_anything or self.links(unit.name) or unit.wanted_by
        return EntryState.ON if starts else EntryState.WHEN_NEEDED

    def possible(
        self, unit: ManagedUnit, is_timer: bool
    ) -> tuple[tuple[EntryState, ...], Reason | None]:
        """States a unit can be switched to; the reason where there are none."""
        install = self.install(unit)
        if install.unknown:
            return (), Reason.of(ReasonCode.UNKNOWN_SPECIFIER, text=install.unknown)
        states = [self._natural(unit, install)]
        linked = install.says_anything or self.links(unit.name)
        by_bus = unit.bus_name and not install.aliases  # it would start it all the same
        if (linked or self.triggers(unit)) and not by_bus:
            states.append(EntryState.OFF)
        if linked and not is_timer and is_service(unit.name):
            states.append(EntryState.LATER)
        states.append(EntryState.OFF_FOR_GOOD)
        by_need = unit.bus_name or any(name.endswith(BY_NEED) for name in unit.triggered_by)
        if by_need and EntryState.WHEN_NEEDED not in states:
            states.append(EntryState.WHEN_NEEDED)
        if unit.fragment.startswith(VENDORS):
            states.append(EntryState.AS_DELIVERED)
        return tuple(states), None

    def delivered(self, unit: ManagedUnit) -> EntryState | None:
        """The vendor's preset; None where there is none."""
        if not unit.fragment.startswith(VENDORS):
            return None
        install = self.install(unit)
        if not install.says_anything:
            return self._natural(unit, install)
        presets = {"enabled": EntryState.ON, "disabled": EntryState.OFF}
        return presets.get(unit.preset)

    def triggers(self, unit: ManagedUnit) -> list[ManagedUnit]:
        """Sockets and paths that start the unit and are switched together with it."""
        names = [name for name in unit.triggered_by if name.endswith(BY_NEED)]
        return [
            trigger
            for trigger in (self.known(names).values() if names else ())
            if self.install(trigger).says_anything or self.links(trigger.name)
        ]

    def own_timer(self, unit: ManagedUnit) -> list[Path]:
        """Link and timer that start it later."""
        timer = self.folder / later_timer(unit.name)
        return [self.folder / "timers.target.wants" / timer.name, timer]

    def drop_in(self, name: str) -> Path:
        """Drop-in with a condition that never holds, where the unit's own file lies where its mask
        would.
        """
        return self.folder / f"{name}.d" / MAKES_OFF


def later_timer(name: str) -> str:
    """Name of the timer that starts a unit later."""
    return f"{LATER_TIMER}{name.rpartition('.')[0]}.timer"


def is_null(link: Path) -> bool:
    """Whether a link is a mask: it leads to /dev/null."""
    return link.is_symlink() and os.readlink(link) == NULL.target


def _escaped(name: str) -> str:
    """The name escaped for use in a glob pattern."""
    return "".join(f"[{char}]" if char in "*?[" else char for char in name)
