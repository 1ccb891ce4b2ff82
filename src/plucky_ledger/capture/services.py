"""The service manager over D-Bus: stages, and what every unit did at this boot."""

import os
import time
from collections.abc import Iterable, Iterator, Mapping, Sequence
from contextlib import suppress
from pathlib import Path

import msgspec

from plucky_ledger.capture.inventory import schedules, switched_off_lines
from plucky_ledger.capture.properties import (
    LOGIN,
    LOGIN_MANAGER,
    LOGIN_PATH,
    LOGIN_SESSION,
    MANAGER,
    PATH,
    SERVICE,
    TYPES,
    UNIT,
    UNIT_SERVICE,
    Properties,
)
from plucky_ledger.core.pc.arming import NO_ENTRIES
from plucky_ledger.core.reasons import Reason, ReasonCode
from plucky_ledger.linux.bus import Address, Bus, NoAnswer, opened
from plucky_ledger.linux.users import is_administrator
from plucky_ledger.recording.lines import (
    ActivityLine,
    ContextLine,
    EntryLine,
    Line,
    MarkLine,
    NoteLine,
    Said,
    StageLine,
    bounded,
    said,
)

THE_MANAGER = Address(SERVICE, PATH, MANAGER)
ITS_PROPERTIES = Address(SERVICE, PATH, "org.freedesktop.DBus.Properties")
FINISHED = (MANAGER, "FinishTimestampMonotonic")
LOOK_AGAIN_SECONDS = 1.0
SOURCE = "service manager"
USERS = Path("/run/user")
MICROSECONDS = 1e-6
NOT_COUNTED = 2**64 - 1
"""What the manager says for a figure it does not keep."""
MISSING = {
    "system": ReasonCode.SERVICES_MISSING,
    "user": ReasonCode.USER_SERVICES_MISSING,
}
VENDOR_FOLDERS = ("/lib/systemd/", "/usr/lib/systemd/", "/run/systemd/")
"""Units the distribution ships or generates: parts of the system."""
DESKTOP = "XDG_CURRENT_DESKTOP="
EVERYBODYS = ("/etc/", "/usr/")
"""Where desktop entries lie that start for whoever signs in."""
ONESHOT = "oneshot"
_UP_AND_END = ("ActiveEnter", "ActiveExit", "InactiveEnter")
GRAPHICAL_SESSION = f"{PATH}/unit/graphical_2dsession_2etarget"
SIGN_IN_SCREEN = "display-manager.service"


def wait_until_up(address: str, deadline: float) -> bool:
    """Wait until a manager has started everything; False where none says so by ``deadline``.

    It is asked for one figure only, over one connection: it has enough to do.
    """
    while time.monotonic() < deadline:
        with suppress(NoAnswer), opened(address) as bus:
            while time.monotonic() < deadline:
                (finish,) = bus.call(ITS_PROPERTIES, "Get", "ss", FINISHED, returns="v")
                if finish != ("t", 0):
                    return True
                time.sleep(LOOK_AGAIN_SECONDS)
        time.sleep(LOOK_AGAIN_SECONDS)
    return False


def lines_of_the_system() -> Iterator[Line]:
    """What the system's manager and the sign-in manager tell; a note why where they cannot."""
    try:
        with opened("SYSTEM") as bus:
            yield from manager_lines(bus, "system")
            yield from _session_lines(bus)
    except NoAnswer as reason:
        yield _note(ReasonCode.NO_SERVICE_MANAGER, reason)


def lines_of_the_user(address: str = "SESSION") -> Iterator[Line]:
    """What the user's manager tells; a note with the reason where it cannot."""
    try:
        with opened(address) as bus:
            yield from manager_lines(bus, "user")
            yield from _desktop_lines(bus)
    except NoAnswer as reason:
        yield _note(ReasonCode.NO_USER_SERVICES, reason)


def _note(code: ReasonCode, why: NoAnswer) -> NoteLine:
    """What is not known, and why nobody answered."""
    return NoteLine(said=said(code, why=why.reason.code, **why.reason.facts))


def desktops_of(address: str = "SESSION") -> list[str]:
    """The desktops that the user's session says it is: by it programs are chosen to start."""
    try:
        with opened(address) as bus:
            kept = bus.properties(THE_MANAGER, TYPES).get("Environment", ())
    except NoAnswer:
        kept = ()
    told = [str(item).removeprefix(DESKTOP) for item in kept if str(item).startswith(DESKTOP)]
    return (told[0] if told else os.environ.get(DESKTOP.strip("="), "")).split(":")


def first_users_bus(
    environment: Mapping[str, str] = os.environ, users: Path = USERS
) -> tuple[int, str] | None:
    """The first user to sign in and the address of their bus, for a recorder of the system.

    None for a user's own recorder, and where nobody has signed in.
    """
    if "DBUS_SESSION_BUS_ADDRESS" in environment or not is_administrator():
        return None
    buses = [bus for bus in users.glob("*/bus") if bus.parent.name.isdigit()]
    first = min(buses, key=lambda bus: bus.stat().st_mtime, default=None)
    return (int(first.parent.name), f"unix:path={first}") if first else None


def manager_lines(bus: Bus, owner: str) -> Iterator[Line]:
    """Everything one manager tells of this boot, as it tells it. Raises NoAnswer."""
    manager = bus.properties(THE_MANAGER, TYPES)
    if owner == "system":
        yield from boot_lines(manager)
    (units,) = bus.call(THE_MANAGER, "ListUnits", returns="a(ssssssouso)")
    targets = [row[6] for row in units if row[0].endswith(".target")]
    paths = [*targets, *(row[6] for row in units if row[0].endswith(".service"))]
    answers = bus.properties_of_all(SERVICE, paths, (UNIT, UNIT_SERVICE), TYPES) if paths else []
    if (why := bus.broken_off) is not None:
        yield _missing(owner, answers[len(targets) :], why)
    timers = {row[0]: row[6] for row in units if row[0].endswith(".timer")}
    timed = schedules(bus, timers) if timers and why is None else {}
    described = unit_lines(answers, manager, owner, timed)
    yield from described
    listed = [line.entry for line in described if isinstance(line, EntryLine)]
    try:
        yield from switched_off_lines(bus, owner, listed)
    except NoAnswer as reason:
        yield _note(ReasonCode.NO_SWITCHED_OFF, reason)


def _missing(owner: str, services: Sequence[Properties], why: Reason) -> NoteLine:
    """How many of the services did not tell what they did, and why."""
    missing = sum(not service for service in services)
    facts = {"missing": missing, "asked": len(services), "why": why.code, **why.facts}
    return NoteLine(said=said(MISSING[owner], **facts))


def boot_lines(manager: Properties) -> list[Line]:
    """Marks and stages from the manager's properties (timestamps in µs, 0 for not known).

    The firmware and loader timestamps say how long before the kernel they began.
    """
    firmware, loader = _instant(manager, "Firmware"), _instant(manager, "Loader")
    initrd, userspace = _instant(manager, "InitRD"), _instant(manager, "Userspace")
    finish = _instant(manager, "Finish")
    lines: list[Line] = []
    if firmware:
        lines.append(MarkLine("power on", -firmware, SOURCE))
        lines.append(StageLine("firmware", -firmware, -(loader or 0.0)))
    if loader:
        lines.append(StageLine("loader", -loader, 0.0))
    if userspace:
        lines.append(StageLine("kernel", 0.0, initrd or userspace))
        if initrd:
            lines.append(StageLine("initrd", initrd, userspace))
    if finish:
        lines.append(MarkLine("system up", finish, SOURCE))
    return lines


def unit_lines(
    units: Iterable[Properties],
    manager: Properties,
    owner: str,
    timed: Mapping[str, tuple[Said, ...]] | None = None,
) -> list[Line]:
    """An entry for every service that was to start at this boot, and what it did.

    ``timed`` says when each timer starts its unit.
    """
    begun = _instant(manager, "UnitsLoadFinish") or _instant(manager, "Userspace") or 0.0
    names = {}
    known = []
    skipped = []
    targets: dict[str, Properties] = {}
    for unit in units:
        name = str(unit.get("Id", ""))
        if name.endswith(".target"):
            targets[name] = unit
        elif (
            name
            and entry_id(unit, "system") not in NO_ENTRIES
            and (_instant(unit, "InactiveExit") or unit.get("Result") not in (None, "success"))
        ):
            names[name] = entry_id(unit, owner)
            known.append(unit)
        elif name and unit.get("WantedBy") and _instant(unit, "Condition"):
            skipped.append(unit)
    lines: list[Line] = [
        msgspec.structs.replace(
            _entry(unit, owner, timed or {}), off=said(ReasonCode.CONDITIONS_NOT_MET)
        )
        for unit in skipped
        if not unit.get("ConditionResult", True)
    ]
    for unit in known:
        lines.append(_entry(unit, owner, timed or {}))
        after = tuple(
            sorted(names[name] for name in _ordered_after(unit, targets) if name in names)
        )
        lines.append(_activity(unit, owner, begun, after))
        if SIGN_IN_SCREEN in unit.get("Names", ()) and (shown := _instant(unit, "ActiveEnter")):
            lines.append(MarkLine("sign-in shown", shown, SOURCE))
    return lines


def entry_id(unit: Properties, owner: str) -> str:
    """Stable over boots: a sign-in program by its desktop entry, a user's unit marked as such."""
    source = str(unit.get("SourcePath", ""))
    if source.endswith(".desktop"):
        return bounded(source.rpartition("/")[2])
    name = bounded(str(unit["Id"]))
    return name if owner == "system" else f"user:{name}"


def _entry(unit: Properties, owner: str, timed: Mapping[str, tuple[Said, ...]]) -> EntryLine:
    source, fragment = str(unit.get("SourcePath", "")), str(unit.get("FragmentPath", ""))
    sign_in = source.endswith(".desktop")
    timers = [str(name) for name in unit.get("TriggeredBy", ()) if str(name).endswith(".timer")]
    starts = "sign-in program" if sign_in else "timer" if timers else f"{owner} service"
    return EntryLine(
        entry=entry_id(unit, owner),
        name=bounded(str(unit.get("Description") or unit["Id"])),
        owner="system" if sign_in and source.startswith(EVERYBODYS) else owner,
        starts=starts,
        origin=bounded(source or fragment),
        command=bounded(_command(unit)),
        part_of_system=not sign_in and fragment.startswith(VENDOR_FOLDERS),
        left_behind=str(unit.get("LoadState", "")) == "not-found",
        group=bounded(str(unit.get("ControlGroup", ""))),
        timers=tuple(rule for name in timers for rule in timed.get(name, ())),
    )


def _command(unit: Properties) -> str:
    starts = unit.get("ExecStart") or ()
    return " ".join(str(word) for word in starts[0][1]) if starts else ""


def _ordered_after(unit: Properties, targets: Mapping[str, Properties]) -> set[str]:
    """Units it is ordered after, those behind a target included: a target only stands for them."""
    names: set[str] = set()
    waiting = [str(name) for name in unit.get("After", ())]
    while waiting:
        name = waiting.pop()
        if name in names:
            continue
        names.add(name)
        if name in targets:
            waiting.extend(str(other) for other in targets[name].get("After", ()))
    return names


def _activity(unit: Properties, owner: str, begun: float, after: tuple[str, ...]) -> ActivityLine:
    begin = _instant(unit, "InactiveExit")
    up, ended = _up_and_end(unit, begin)
    result = str(unit.get("Result", "success"))
    return ActivityLine(
        entry=entry_id(unit, owner),
        waiting_from=min(begun, begin) if begin else None,
        starting_from=begin,
        up_at=up,
        ended_at=ended,
        result="" if result == "success" else f"failed: {bounded(result)}",
        after=after,
        cpu_seconds=_scaled(unit, "CPUUsageNSec", 1e-9),
        memory_bytes=_counted(unit, "MemoryCurrent"),
        bytes_read=_counted(unit, "IOReadBytes"),
    )


def _up_and_end(unit: Properties, begin: float | None) -> tuple[float | None, float | None]:
    """When it was up, and when it was no longer.

    The manager keeps the newest of each: one from before the beginning is of an earlier run. A
    oneshot that does not stay active is never up for the manager; it is done when it is inactive
    again, and what is ordered after it may begin then.
    """
    if begin is None:
        return None, None
    up, left, ended = (
        instant if instant is not None and instant >= begin else None
        for instant in (_instant(unit, name) for name in _UP_AND_END)
    )
    if up is not None:
        return up, next((end for end in (left, ended) if end is not None and end > up), None)
    if ended is not None and unit.get("Type") == ONESHOT and unit.get("Result") == "success":
        return ended, ended
    return None, ended


def _desktop_lines(bus: Bus) -> list[Line]:
    """When the graphical session was up, where the desktop tells the user's manager."""
    (target,) = bus.properties_of_all(SERVICE, [GRAPHICAL_SESSION], (UNIT,), TYPES)
    shown = _instant(target, "ActiveEnter")
    return [MarkLine("desktop shown", shown, "user's service manager")] if shown else []


def _session_lines(bus: Bus) -> list[Line]:
    """Who signed in first, and when: on the PC's own screen, or else wherever somebody did."""
    try:
        manager = Address(LOGIN, LOGIN_PATH, LOGIN_MANAGER)
        (sessions,) = bus.call(manager, "ListSessions", returns="a(susso)")
        paths = [str(row[4]) for row in sessions]
        answers = bus.properties_of_all(LOGIN, paths, (LOGIN_SESSION,), TYPES) if paths else []
    except NoAnswer as reason:
        return [_note(ReasonCode.NO_SIGN_IN_TIME, reason)]
    people = [session for session in answers if session.get("Class") == "user"]
    seated = [session for session in people if session.get("Seat", ("",))[0]]
    if not people:
        return []
    first = min(seated or people, key=lambda session: int(session.get("TimestampMonotonic", 0)))
    at = _scaled(first, "TimestampMonotonic", MICROSECONDS)
    lines: list[Line] = [ContextLine(user=bounded(str(first.get("Name", ""))))]
    source = "sign-in manager" if seated else "sign-in manager, a session without a screen"
    return [*lines, MarkLine("signed in", round(at, 3), source)] if at else lines


def _instant(properties: Properties, name: str) -> float | None:
    """Seconds since the kernel started; None for never."""
    value = _counted(properties, f"{name}TimestampMonotonic")
    return round(value * MICROSECONDS, 3) if value else None


def _counted(properties: Properties, name: str) -> int | None:
    value = properties.get(name)
    if not isinstance(value, int) or value in (NOT_COUNTED, 2**63) or value > 2**53:
        return None
    return value


def _scaled(properties: Properties, name: str, factor: float) -> float | None:
    value = _counted(properties, name)
    return None if value is None else value * factor
