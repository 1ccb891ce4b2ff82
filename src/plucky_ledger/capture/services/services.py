"""Asking the service managers and the sign-in manager over D-Bus what happened at this boot."""

import os
import time
from collections.abc import Iterable, Iterator, Mapping, Sequence
from contextlib import suppress
from pathlib import Path

from plucky_ledger.capture.sampling.pressure import with_pressure
from plucky_ledger.capture.services.init_scripts import lines_of_init_scripts
from plucky_ledger.capture.services.inventory import schedules, switched_off_lines
from plucky_ledger.capture.services.units import (
    boot_lines,
    instant,
    passphrase_lines,
    unit_lines,
)
from plucky_ledger.core.entries.kinds import is_mount, is_service
from plucky_ledger.core.values.reasons import Reason, ReasonCode
from plucky_ledger.linux.bus import Address, Bus, NoAnswer, opened
from plucky_ledger.linux.init_systems.running import InitSystem, init_system, still_starting
from plucky_ledger.linux.properties import (
    MANAGER,
    PATH,
    SERVICE,
    TYPES,
    UNIT,
    UNIT_SERVICE,
    Properties,
)
from plucky_ledger.linux.sessions import (
    Session,
    has_a_screen,
    recorded_sessions,
    sessions_of_people,
)
from plucky_ledger.linux.users import ADMINISTRATOR, is_administrator, is_person
from plucky_ledger.recording.lines import (
    ContextLine,
    EntryLine,
    Line,
    MarkLine,
    NoteLine,
    bounded,
    said,
)

THE_MANAGER = Address(SERVICE, PATH, MANAGER)
ITS_PROPERTIES = Address(SERVICE, PATH, "org.freedesktop.DBus.Properties")
FINISHED = (MANAGER, "FinishTimestampMonotonic")
LOOK_AGAIN_SECONDS = 2.0
USERS = Path("/run/user")
MISSING = {
    "system": ReasonCode.SERVICES_MISSING,
    "user": ReasonCode.USER_SERVICES_MISSING,
}
GRAPHICAL_SESSION = f"{PATH}/unit/graphical_2dsession_2etarget"


def wait_until_up(address: str, deadline: float) -> bool:
    """Wait until a manager has started everything; False where none says so by ``deadline``.

    It is asked for one figure only, over one connection: it has enough to do. An init system has
    nothing that could be asked: it has when its scripts have been run.
    """
    if init_system() is not None:
        while still_starting() and time.monotonic() < deadline:
            time.sleep(LOOK_AGAIN_SECONDS)
        return True
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
    """What the system's manager and the sign-in manager tell; a note why where they cannot.

    Of an init system in the manager's place what its folders tell.
    """
    if (system := init_system()) is not None:
        yield from _without_a_manager(system)
        return
    try:
        with opened("SYSTEM") as bus:
            yield from manager_lines(bus, "system")
            yield from _session_lines(bus)
    except NoAnswer as reason:
        yield _note(ReasonCode.NO_SERVICE_MANAGER, reason)


def _without_a_manager(system: InitSystem) -> Iterator[Line]:
    yield from lines_of_init_scripts(system)
    try:
        with opened("SYSTEM") as bus:
            sessions = sessions_of_people(bus)
    except NoAnswer:
        sessions = []
    yield from _first_of(sessions, "sign-in manager")
    if not sessions:  # it may have come later than they did
        yield from _first_of(recorded_sessions(), "records of sign-ins")


def lines_of_the_user(address: str = "SESSION") -> Iterator[Line]:
    """What the user's manager tells; a note with the reason where it cannot."""
    try:
        with opened(address) as bus:
            yield from manager_lines(bus, "user")
            yield from _desktop_lines(bus)
    except NoAnswer as reason:
        if init_system() is None:  # nobody has such services there
            yield _note(ReasonCode.NO_USER_SERVICES, reason)


def _note(code: ReasonCode, why: NoAnswer) -> NoteLine:
    """A note: what is missing, and why there was no answer."""
    return NoteLine(said=said(code, why=why.reason.code, **why.reason.facts))


def bus_of_the_person(
    environment: Mapping[str, str] = os.environ,
    users: Path = USERS,
    address: str = "SYSTEM",
    for_sure: bool = False,
) -> tuple[int, str] | None:
    """The person who signed in, and the address of their bus, for a recorder of the system.

    By the sign-in manager's word: at the PC's own screen, or else the first to sign in. Where there
    is none, by the records of sign-ins, or else the person whose bus is the oldest. Accounts
    without a session are nobody's, such as one that lingers. With ``for_sure`` only who will stay
    the person, whoever else signs in.

    None for a user's own recorder, and where nobody has signed in.
    """
    if "DBUS_SESSION_BUS_ADDRESS" in environment or not is_administrator():
        return None
    if not people_here(users, ()) and not recorded_sessions():
        return None  # asked again and again while the PC starts: the sign-in manager is left alone
    try:
        with opened(address) as bus:
            sessions = sessions_of_people(bus)
            if for_sure and has_a_screen(bus):
                sessions = [session for session in sessions if session.seat]
        people = [session.user for session in sessions]
    except NoAnswer:
        people = [session.user for session in recorded_sessions()] or people_with_buses(users)
    return (people[0], f"unix:path={users / str(people[0]) / 'bus'}") if people else None


def people_here(users: Path = USERS, but: Iterable[int] = (ADMINISTRATOR,)) -> set[int]:
    """People something runs for in this boot, signed in or not. Anybody may ask."""
    numbers = {int(folder.name) for folder in users.glob("*") if folder.name.isdecimal()}
    return {number for number in numbers.difference(but) if is_person(number)}


def people_with_buses(users: Path = USERS) -> list[int]:
    """Those of them who have a bus of their own: whose is the oldest first."""
    found: list[tuple[float, int]] = []
    for user in people_here(users):
        with suppress(OSError):
            found.append(((users / str(user) / "bus").stat().st_mtime, user))
    return [user for _, user in sorted(found)]


def manager_lines(bus: Bus, owner: str) -> Iterator[Line]:
    """Everything one manager tells of this boot, as it tells it. Raises NoAnswer."""
    manager = bus.properties(THE_MANAGER, TYPES)
    if owner == "system":
        yield from boot_lines(manager)
    (units,) = bus.call(THE_MANAGER, "ListUnits", returns="a(ssssssouso)")
    targets = [row[6] for row in units if row[0].endswith(".target")]
    mounts = [row[6] for row in units if owner == "system" and is_mount(row[0])]
    services = [row[6] for row in units if is_service(row[0])]
    paths = [*targets, *mounts, *services]
    answers = bus.properties_of_all(SERVICE, paths, (UNIT, UNIT_SERVICE), TYPES) if paths else []
    if (why := bus.broken_off) is not None:
        yield _missing(owner, answers[len(targets) + len(mounts) :], why)
    timers = {row[0]: row[6] for row in units if row[0].endswith(".timer")}
    timed = schedules(bus, timers) if timers and why is None else {}
    described = unit_lines(answers, manager, owner, timed)
    yield from with_pressure(described)
    if owner == "system":
        yield from passphrase_lines(answers)
    listed = [line.entry for line in described if isinstance(line, EntryLine)]
    try:
        yield from switched_off_lines(bus, owner, listed)
    except NoAnswer as reason:
        yield _note(ReasonCode.NO_SWITCHED_OFF, reason)


def _missing(owner: str, services: Sequence[Properties], why: Reason) -> NoteLine:
    """A note: how many services gave no times, and why."""
    missing = sum(not service for service in services)
    facts = {"missing": missing, "asked": len(services), "why": why.code, **why.facts}
    return NoteLine(said=said(MISSING[owner], **facts))


def _desktop_lines(bus: Bus) -> list[Line]:
    """When the graphical session was up, where the desktop tells the user's manager."""
    (target,) = bus.properties_of_all(SERVICE, [GRAPHICAL_SESSION], (UNIT,), TYPES)
    shown = instant(target, "ActiveEnter")
    return [MarkLine("desktop shown", shown, "user's service manager")] if shown else []


def _session_lines(bus: Bus) -> list[Line]:
    """Name of the person who signed in, and when."""
    try:
        sessions = sessions_of_people(bus)
    except NoAnswer as reason:
        return [_note(ReasonCode.NO_SIGN_IN_TIME, reason)]
    return _first_of(sessions, "sign-in manager")


def _first_of(sessions: Sequence[Session], source: str) -> list[Line]:
    if not sessions:
        return []
    first = sessions[0]
    lines: list[Line] = [ContextLine(user=bounded(first.name))]
    source = source if first.seat else f"{source}, a session without a screen"
    at = round(first.since_start, 3)
    return [*lines, MarkLine("signed in", at, source)] if at > 0 else lines
