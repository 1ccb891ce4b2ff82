"""What the service manager knows beyond this boot: units switched off, timers' schedules."""

from collections.abc import Iterable, Mapping
from typing import Any

from plucky_ledger.core.entries.kinds import KINDS, bare_name, id_of_unit, is_service, service_kind
from plucky_ledger.core.pc.arming import NO_ENTRIES
from plucky_ledger.core.values.reasons import ReasonCode
from plucky_ledger.linux.bus import Address, Bus, NoAnswer
from plucky_ledger.linux.properties import MANAGER, PATH, SERVICE, TIMER, TYPES
from plucky_ledger.recording.lines import EntryLine, Said, bounded, said

OFF_STATES = {"disabled": ReasonCode.SWITCHED_OFF, "masked": ReasonCode.MASKED}
COUNTED_FROM = {
    "OnBootUSec": ReasonCode.AFTER_KERNEL,
    "OnStartupUSec": ReasonCode.AFTER_MANAGER,
    "OnActiveUSec": ReasonCode.AFTER_TIMER,
    "OnUnitActiveUSec": ReasonCode.AFTER_LAST_RUN,
    "OnUnitInactiveUSec": ReasonCode.AFTER_LAST_END,
}


def switched_off_lines(bus: Bus, owner: str, known: Iterable[str]) -> list[EntryLine]:
    """An entry for every service that is there but set not to start; ``known`` ids are left out."""
    (files,) = bus.call(Address(SERVICE, PATH, MANAGER), "ListUnitFiles", returns="a(ss)")
    there = set(known)
    lines = []
    for path, state in files:
        name = str(path).rpartition("/")[2]
        entry = bounded(id_of_unit(name, owner == "system"))
        # A template is not a service until somebody names an instance of it.
        if state not in OFF_STATES or not is_service(name) or "@." in name or name in NO_ENTRIES:
            continue
        if entry not in there:
            lines.append(
                EntryLine(
                    entry=entry,
                    name=bounded(bare_name(name)),
                    owner=owner,
                    starts=KINDS[service_kind(owner == "system")].recorded_as,
                    origin=bounded(str(path)),
                    part_of_system=str(path).startswith(("/lib/", "/usr/lib/")),
                    off=said(OFF_STATES[state]),
                    file_state=str(state),
                )
            )
    return lines


def schedules(bus: Bus, timers: Mapping[str, str]) -> dict[str, tuple[Said, ...]]:
    """When each timer starts its unit. ``timers`` maps timer names to object paths."""
    names = list(timers)
    try:
        paths = [timers[name] for name in names]
        answers = bus.properties_of_all(SERVICE, paths, (TIMER,), TYPES)
    except NoAnswer:
        return {}
    return {name: rules_of(timer) for name, timer in zip(names, answers, strict=True) if timer}


def rules_of(timer: Mapping[str, Any]) -> tuple[Said, ...]:
    """A timer's rules from its properties; those of a kind nobody knows are left out."""
    calendar = [
        said(ReasonCode.ON_CALENDAR, calendar=bounded(str(row[1]), 200))
        for row in timer.get("TimersCalendar", ())
    ]
    monotonic = [
        said(COUNTED_FROM[str(row[0])], seconds=int(row[1]) / 1e6)
        for row in timer.get("TimersMonotonic", ())
        if str(row[0]) in COUNTED_FROM
    ]
    return (*calendar, *monotonic)
