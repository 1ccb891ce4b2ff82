"""Sessions of people, as the sign-in manager knows them, or the records of sign-ins.

org.freedesktop.login1(5), utmp(5).
"""

import pwd
import time
from dataclasses import dataclass
from pathlib import Path

from plucky_ledger.linux.bus import Address, Bus
from plucky_ledger.linux.properties import (
    LOGIN,
    LOGIN_MANAGER,
    LOGIN_PATH,
    LOGIN_SEAT,
    LOGIN_SESSION,
    TYPES,
)
from plucky_ledger.linux.sign_in_records import NOW, people_here
from plucky_ledger.linux.this_boot import PROC, seconds_up
from plucky_ledger.linux.users import is_person

SIGN_IN_MANAGER = Address(LOGIN, LOGIN_PATH, LOGIN_MANAGER)
OF_PEOPLE = frozenset({"user", "user-early", "user-light", "user-early-light"})
"""Classes of sessions that a person signed in to; the others are of sign-in screens and jobs."""
MICROSECONDS = 1e-6
OWN_SCREEN = ("tty", ":")
"""How terminals of the PC's own screen and keyboard begin; a serial line is not one."""
SERIAL = "ttyS"


@dataclass(frozen=True, kw_only=True)
class Session:
    """One session of a person."""

    user: int
    name: str
    seat: str
    """The PC's own screen and keyboard it is at; empty for one from elsewhere."""
    terminal: str
    """Empty where it has none."""
    since_start: float
    """When it began, in seconds since the kernel started; 0 where that is not told."""
    began: float
    """The same in seconds of the epoch."""


def sessions_of_people(bus: Bus) -> list[Session]:
    """All of them: those at the PC's own screen before others, then by when they began.

    Sign-in screens and system accounts are left out. Raises NoAnswer.
    """
    (rows,) = bus.call(SIGN_IN_MANAGER, "ListSessions", returns="a(susso)")
    paths = [str(row[4]) for row in rows]
    answers = bus.properties_of_all(LOGIN, paths, (LOGIN_SESSION,), TYPES) if paths else []
    sessions = [
        Session(
            user=int(user),
            name=str(answer.get("Name", name)),
            seat=str(answer.get("Seat", ("",))[0]),
            terminal=str(answer.get("TTY", "")),
            since_start=int(answer.get("TimestampMonotonic", 0)) * MICROSECONDS,
            began=int(answer.get("Timestamp", 0)) * MICROSECONDS,
        )
        for (_id, user, name, *_), answer in zip(rows, answers, strict=True)
        if answer.get("Class") in OF_PEOPLE and is_person(int(user))
    ]
    return sorted(sessions, key=lambda session: (not session.seat, session.since_start))


def has_a_screen(bus: Bus) -> bool:
    """Whether anybody can sign in at the PC's own screen. Raises NoAnswer."""
    (rows,) = bus.call(SIGN_IN_MANAGER, "ListSeats", returns="a(so)")
    paths = [str(row[1]) for row in rows]
    answers = bus.properties_of_all(LOGIN, paths, (LOGIN_SEAT,), TYPES) if paths else []
    return any(answer.get("CanGraphical") is True for answer in answers)


def recorded_sessions(path: Path = NOW, proc: Path = PROC) -> list[Session]:
    """The same by the records of sign-ins, for a PC without a sign-in manager."""
    started = time.time() - seconds_up(proc)
    sessions = []
    for one in people_here(path, proc):
        try:
            user = pwd.getpwnam(one.user).pw_uid
        except KeyError:
            continue
        own = one.terminal.startswith(OWN_SCREEN) and not one.terminal.startswith(SERIAL)
        if is_person(user):
            sessions.append(
                Session(
                    user=user,
                    name=one.user,
                    seat="seat0" if own else "",
                    terminal=one.terminal,
                    since_start=max(0.0, one.at - started),
                    began=one.at,
                )
            )
    return sorted(sessions, key=lambda session: (not session.seat, session.since_start))
