"""Asking a service manager about single units, and telling it that files have changed.

org.freedesktop.systemd1(5).
"""

import logging
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from plucky_ledger.core.values.reasons import Reason, ReasonCode
from plucky_ledger.linux.bus import Address, Bus, NoAnswer, opened
from plucky_ledger.linux.properties import MANAGER, PATH, SERVICE, UNIT, UNIT_SERVICE

THE_MANAGER = Address(SERVICE, PATH, MANAGER)
THE_BUS = Address("org.freedesktop.DBus", "/org/freedesktop/DBus", "org.freedesktop.DBus")
TYPES: Mapping[str, str] = {
    **dict.fromkeys(
        (
            "Id",
            "LoadState",
            "FragmentPath",
            "SourcePath",
            "UnitFileState",
            "UnitFilePreset",
            "BusName",
        ),
        "s",
    ),
    **dict.fromkeys(
        (
            "WantedBy",
            "RequiredBy",
            "UpheldBy",
            "BoundBy",
            "RequisiteOf",
            "ConsistsOf",
            "TriggeredBy",
            "DropInPaths",
        ),
        "as",
    ),
}
BUS_SERVICES = {"system": "system-services", "user": "services"}
BUS_FOLDERS = (Path("/etc/dbus-1"), Path("/usr/local/share/dbus-1"), Path("/usr/share/dbus-1"))
BY_NEED = (".socket", ".path")
"""Units that start another when it is needed, and are switched together with it."""
STARTS_IT = ("WantedBy", "RequiredBy", "UpheldBy")
NEEDS_IT = ("RequiredBy", "BoundBy", "RequisiteOf", "ConsistsOf")
log = logging.getLogger(__name__)


@dataclass(frozen=True, kw_only=True)
class ManagedUnit:
    """One unit as its manager knows it."""

    name: str
    load_state: str
    fragment: str
    """Its file; empty where it has none."""
    drop_ins: tuple[str, ...]
    file_state: str
    preset: str
    wanted_by: tuple[str, ...]
    """Units that start it with themselves."""
    triggered_by: tuple[str, ...]
    """Sockets, timers and paths that start it."""
    needed_by: tuple[str, ...]
    """Units that cannot be without it."""
    bus_name: str
    """Name on the bus whose first call starts it; empty where none does."""


class ServiceManager:
    """One service manager: of the system, or of the user who runs this process."""

    def __init__(self, owner: str, address: str | None = None) -> None:
        self.owner = owner
        self._address = address or {"system": "SYSTEM", "user": "SESSION"}[owner]

    def search_path(self) -> tuple[Path, ...]:
        """Its unit search path, highest precedence first. Raises NoAnswer."""
        with opened(self._address) as bus:
            properties = bus.properties(THE_MANAGER, {"UnitPath": "as"})
        if not properties.get("UnitPath"):
            raise NoAnswer(ReasonCode.ONLY_ERRORS)
        return tuple(Path(folder) for folder in properties["UnitPath"])

    def units(self, names: list[str]) -> dict[str, ManagedUnit]:
        """Properties of some units, loaded where they are not yet. Raises NoAnswer."""
        with opened(self._address) as bus:
            paths = {name: path for name in names if (path := _loaded(bus, name))}
            if not paths:
                return {}
            listed = bus.properties_of_all(
                SERVICE, list(paths.values()), (UNIT, UNIT_SERVICE), TYPES
            )
        return {
            name: self._unit(name, properties)
            for name, properties in zip(paths, listed, strict=True)
            if properties
        }

    def reload(self) -> None:
        """Reload the unit files; a manager that does not answer reads them at the next start."""
        try:
            with opened(self._address) as bus:
                bus.call(THE_MANAGER, "Reload")
        except NoAnswer as silence:
            log.warning("the %s's service manager was not told: %s", self.owner, silence.reason)

    def reload_bus(self) -> None:
        """Have the message bus read what it may start; one that does not answer reads it at the
        next start.
        """
        try:
            with opened(self._address) as bus:
                bus.call(THE_BUS, "ReloadConfig")
        except NoAnswer as silence:
            log.warning("the %s's message bus was not told: %s", self.owner, silence.reason)

    def _unit(self, name: str, told: Mapping[str, Any]) -> ManagedUnit:
        return ManagedUnit(
            name=name,
            load_state=str(told.get("LoadState", "")),
            fragment=str(told.get("FragmentPath", "")),
            drop_ins=tuple(told.get("DropInPaths", ())),
            file_state=str(told.get("UnitFileState", "")),
            preset=str(told.get("UnitFilePreset", "")),
            wanted_by=_names(told, STARTS_IT),
            triggered_by=_names(told, ("TriggeredBy",)),
            needed_by=_names(told, NEEDS_IT),
            bus_name=self.called_by_bus(str(told.get("BusName", ""))),
        )

    def called_by_bus(self, bus_name: str) -> str:
        """The name, where the bus may start a service for it; empty where it may not."""
        kind = BUS_SERVICES[self.owner]
        there = any((folder / kind / f"{bus_name}.service").exists() for folder in BUS_FOLDERS)
        return bus_name if bus_name and there else ""


def _names(told: Mapping[str, Any], keys: tuple[str, ...]) -> tuple[str, ...]:
    return tuple(sorted({str(name) for key in keys for name in told.get(key, ())}))


def _loaded(bus: Bus, name: str) -> str:
    try:
        return str(bus.call(THE_MANAGER, "LoadUnit", "s", (name,), returns="o")[0])
    except NoAnswer as refusal:
        if refusal.reason.code is ReasonCode.ERROR_REPLY:
            return ""
        raise


def started_by(unit: ManagedUnit, other_than: frozenset[str] = frozenset()) -> tuple[Reason, ...]:
    """Units that start this one besides the given ones, the surest first."""
    names = [name for name in unit.wanted_by if name not in other_than]
    triggers = [name for name in unit.triggered_by if name not in other_than]
    reasons = [Reason.of(ReasonCode.WANTED_BY, names=", ".join(names))] if names else []
    together = [name for name in triggers if name.endswith(BY_NEED)]
    others = [name for name in triggers if name not in together]
    for code, found in ((ReasonCode.SWITCHED_WITH, together), (ReasonCode.TRIGGERED_BY, others)):
        if found:
            reasons.append(Reason.of(code, names=", ".join(found)))
    if unit.bus_name:
        reasons.append(Reason.of(ReasonCode.STARTED_BY_BUS, name=unit.bus_name))
    return tuple(reasons)
