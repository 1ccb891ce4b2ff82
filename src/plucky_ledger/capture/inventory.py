"""What the service manager knows beyond this boot: units switched off, timers' schedules."""

from collections.abc import Iterable, Mapping
from typing import Any

from plucky_ledger.linux.bus import Bus, NoAnswer
from plucky_ledger.recording.lines import EntryLine, bounded

SERVICE = "org.freedesktop.systemd1"
PATH = "/org/freedesktop/systemd1"
MANAGER = f"{SERVICE}.Manager"
TIMER = f"{SERVICE}.Timer"
OFF_STATES = {"disabled": "switched off", "masked": "masked: it may not be started at all"}
SPANS = ((86_400, "d"), (3600, "h"), (60, "min"))
COUNTED_FROM = {
    "OnBootUSec": "after the kernel started",
    "OnStartupUSec": "after the service manager started",
    "OnActiveUSec": "after the timer was started",
    "OnUnitActiveUSec": "after it ran last",
    "OnUnitInactiveUSec": "after it ended last",
}


def switched_off_lines(bus: Bus, owner: str, known: Iterable[str]) -> list[EntryLine]:
    """An entry for every service that is there but set not to start; ``known`` ids are left out."""
    (files,) = bus.call(SERVICE, PATH, MANAGER, "ListUnitFiles")
    there = set(known)
    lines = []
    for path, state in files:
        name = str(path).rpartition("/")[2]
        entry = bounded(name if owner == "system" else f"user:{name}")
        # A template is not a service until somebody names an instance of it.
        if state not in OFF_STATES or not name.endswith(".service") or "@." in name:
            continue
        if entry not in there:
            lines.append(
                EntryLine(
                    entry=entry,
                    name=bounded(name.removesuffix(".service")),
                    owner=owner,
                    starts=f"{owner} service",
                    origin=bounded(str(path)),
                    part_of_system=str(path).startswith(("/lib/", "/usr/lib/")),
                    off_because=OFF_STATES[state],
                )
            )
    return lines


def schedules(bus: Bus, timers: Mapping[str, str]) -> dict[str, str]:
    """When each timer starts its unit, in words. ``timers`` maps timer names to object paths."""
    names = list(timers)
    try:
        found = bus.properties_of_all(SERVICE, [timers[name] for name in names], (TIMER,))
    except NoAnswer:
        return {}
    return {name: in_words(timer) for name, timer in zip(names, found, strict=True) if timer}


def in_words(timer: Mapping[str, Any]) -> str:
    """A timer's schedule from its properties, such as "15 min after the kernel started"."""
    parts = [f"on the calendar {row[1]}" for row in timer.get("TimersCalendar", ())]
    parts += [
        f"{_span(int(row[1]) / 1e6)} {COUNTED_FROM.get(str(row[0]), str(row[0]))}"
        for row in timer.get("TimersMonotonic", ())
    ]
    return bounded(" and ".join(parts), 200)


def _span(seconds: float) -> str:
    for length, unit in SPANS:
        if seconds >= length and seconds % length == 0:
            return f"{seconds / length:.0f} {unit}"
    return f"{seconds:g} s"
