"""What a PC starts and has, kept after each recording, and how the next recording differs."""

from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from types import MappingProxyType
from typing import TYPE_CHECKING

from plucky_ledger.core.entries.entry import StartupEntry
from plucky_ledger.core.entries.kinds import KINDS, another_person
from plucky_ledger.core.entries.states import NOT_STARTED, EntryState
from plucky_ledger.core.job.noticed import ENTRY
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.values.reasons import Reason, ReasonCode

if TYPE_CHECKING:
    from plucky_ledger.core.boots.timeline import Activity

SWITCHED_ON, SWITCHED_OFF = "enabled", frozenset({"disabled", "masked"})
"""What a service manager says of units that are switched on, and off."""
NO_PACKAGES: Mapping[str, str] = MappingProxyType({})
NAMED_PACKAGES = 5
"""How many of those that changed are named."""
BY_NEED = frozenset({EntryState.WHEN_NEEDED})


@dataclass(frozen=True)
class InventoryEntry:
    """What an inventory keeps of an entry."""

    name: str
    starts: bool
    package: str = ""


@dataclass(frozen=True)
class Inventory:
    """What starts by itself on a PC, and what it has."""

    entries: Mapping[str, InventoryEntry]
    """By id: those alone of which it is certain that they are there at every start."""
    memory_bytes: int | None = None
    drives: tuple[str, ...] = ()
    kernel: str = ""
    packages: Mapping[str, str] = field(default_factory=dict)
    """Version of every package, by its name; empty where the PC does not tell."""


def inventory_of(
    entries: Iterable[StartupEntry], facts: Facts, packages: Mapping[str, str] = NO_PACKAGES
) -> Inventory:
    """What is to be compared with at the next recording.

    Of services those that are switched on or off: others come and go as they are needed.
    """
    return Inventory(
        {
            entry.entry_id: InventoryEntry(entry.name, entry.off_because is None, entry.package)
            for entry in entries
            if _is_certain(entry)
        },
        facts.memory_bytes,
        tuple(sorted(f"{drive.name} {drive.size_bytes}" for drive in facts.drives)),
        facts.kernel,
        dict(packages),
    )


def _is_certain(entry: StartupEntry) -> bool:
    """Whether every recording tells of it: only the administrator's tells of other people's."""
    if another_person(entry.entry_id):
        return False
    return KINDS[entry.kind].every_start or entry.file_state in {SWITCHED_ON, *SWITCHED_OFF}


def unposted_changes(
    before: Inventory | None, now: Inventory, states: Mapping[str, EntryState]
) -> tuple[Reason, ...]:
    """What is new, gone or set otherwise since the inventory before; ``states`` were posted."""
    if before is None:
        return ()
    found: list[Reason] = []
    for entry_id, known in now.entries.items():
        was = before.entries.get(entry_id)
        if entry_id in states:
            continue
        if was is None and known.starts:
            found.append(_about(ReasonCode.NEW_ENTRY, entry_id, known))
        elif was is not None and was.starts is not known.starts:
            code = ReasonCode.SET_ON if known.starts else ReasonCode.SET_OFF
            found.append(_about(code, entry_id, known))
        elif was is not None and was.package and known.package not in ("", was.package):
            found.append(_about(ReasonCode.UPDATED, entry_id, known))
    found += [
        _about(ReasonCode.GONE_ENTRY, entry_id, was)
        for entry_id, was in before.entries.items()
        if was.starts and entry_id not in now.entries and entry_id not in states
    ]
    if before.memory_bytes and now.memory_bytes and before.memory_bytes != now.memory_bytes:
        found.append(
            Reason.of(ReasonCode.MEMORY_CHANGED, before=before.memory_bytes, now=now.memory_bytes)
        )
    if before.drives and now.drives and before.drives != now.drives:
        found.append(Reason.of(ReasonCode.DRIVES_CHANGED))
    if before.kernel and now.kernel and before.kernel != now.kernel:
        found.append(Reason.of(ReasonCode.KERNEL_CHANGED, before=before.kernel, now=now.kernel))
    return (*found, *_packages_changed(before, now))


def _packages_changed(before: Inventory, now: Inventory) -> tuple[Reason, ...]:
    """Packages that start nothing themselves: an entry's own is told with it."""
    if not before.packages or not now.packages:
        return ()
    with_entries = {
        known.package.split(" ")[0]
        for inventory in (before, now)
        for known in inventory.entries.values()
    }
    was = {name: version for name, version in before.packages.items() if name not in with_entries}
    are = {name: version for name, version in now.packages.items() if name not in with_entries}
    new, gone = sorted(are.keys() - was.keys()), sorted(was.keys() - are.keys())
    updated = sorted(name for name in are.keys() & was.keys() if are[name] != was[name])
    changed = [*new, *gone, *updated]
    if not changed:
        return ()
    names = ", ".join(changed[:NAMED_PACKAGES])
    return (
        Reason.of(
            ReasonCode.PACKAGES_CHANGED,
            new=len(new),
            gone=len(gone),
            updated=len(updated),
            names=names,
            more=max(0, len(changed) - NAMED_PACKAGES),
        ),
    )


def came_back(
    entries: Iterable[StartupEntry],
    activities: Sequence["Activity"],
    states: Mapping[str, EntryState],
    before: Inventory | None = None,
    worked: Collection[str] = (),
) -> tuple[Reason, ...]:
    """Entries that were switched off and started all the same; ``worked`` are the ids of those that
    did so much that it shows, whatever their manager says of them: something else asked for them.

    Where their package is another one than before, that put them back; otherwise they did it
    themselves, or somebody.
    """
    began = {activity.entry_id for activity in activities if activity.starting_from is not None}
    return tuple(
        _came_back(entry, before)
        for entry in entries
        if states.get(entry.entry_id) in NOT_STARTED - BY_NEED
        and (entry.entry_id in worked or _began_by_itself(entry, began))
    )


def _began_by_itself(entry: StartupEntry, began: Collection[str]) -> bool:
    on = entry.off_because is None and entry.file_state not in SWITCHED_OFF
    return on and entry.entry_id in began


def _came_back(entry: StartupEntry, before: Inventory | None) -> Reason:
    was = before.entries.get(entry.entry_id) if before is not None else None
    updated = was is not None and was.package and entry.package not in ("", was.package)
    code = ReasonCode.UPDATE_PUT_BACK if updated else ReasonCode.CAME_BACK
    return _about(code, entry.entry_id, InventoryEntry(entry.name, True, entry.package))


def _about(code: ReasonCode, entry_id: str, known: InventoryEntry) -> Reason:
    return Reason(code, {ENTRY: entry_id, "name": known.name, "package": known.package})
