"""Restarting this PC through its sign-in manager, which asks whoever has to be asked.

org.freedesktop.login1(5).
"""

import logging
import os
from dataclasses import dataclass

from plucky_ledger.core.entries.kinds import FIRST_PERSON
from plucky_ledger.core.values.reasons import Reason, ReasonCode
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.linux.bus import Address, NoAnswer, opened
from plucky_ledger.linux.properties import LOGIN, LOGIN_MANAGER, LOGIN_PATH

SIGN_IN_MANAGER = Address(LOGIN, LOGIN_PATH, LOGIN_MANAGER)
log = logging.getLogger(__name__)


@dataclass(frozen=True)
class HoldUp:
    """Something that a restart would end, or that asks for none now."""

    reason: Reason
    who: str
    """The program, or the users."""
    only_delays: bool = False
    """It asks for a moment before a restart, not for none."""


def held_up_by(user: int, bus_address: str = "SYSTEM") -> tuple[HoldUp, ...]:
    """What speaks against restarting now, for this user: others who are signed in, and programs
    that forbid restarts or delay them. Raises NoAnswer where the sign-in manager does not say.
    """
    with opened(bus_address) as bus:
        (sessions,) = bus.call(SIGN_IN_MANAGER, "ListSessions", returns="a(susso)")
        (inhibitors,) = bus.call(SIGN_IN_MANAGER, "ListInhibitors", returns="a(ssssuu)")
    others = {str(row[2]) for row in sessions if row[1] != user and row[1] >= FIRST_PERSON}
    found = []
    if others:
        names = ", ".join(sorted(others))
        found.append(HoldUp(Reason.of(ReasonCode.OTHERS_SIGNED_IN, names=names), names))
    for what, who, why, mode, *_ in inhibitors:
        if "shutdown" in str(what).split(":"):
            reason = Reason.of(ReasonCode.HOLDS_UP_RESTART, who=str(who), why=str(why))
            found.append(HoldUp(reason, str(who), only_delays=mode != "block"))
    return tuple(found)


def what_a_restart_ends(bus_address: str = "SYSTEM") -> tuple[Reason, ...]:
    """What else a restart would end, or is forbidden by: nothing where nobody says."""
    try:
        found = held_up_by(os.getuid(), bus_address)
    except NoAnswer:
        return ()
    return tuple(one.reason for one in found if not one.only_delays)


def restart(bus_address: str = "SYSTEM") -> None:
    """Restart the PC: everything that is open is closed.

    Raises:
        Refused: nobody may, or something that is going on forbids it.
    """
    log.info("restarting this PC")
    try:
        with opened(bus_address) as bus:
            bus.call(SIGN_IN_MANAGER, "Reboot", "b", (True,), authorise=True)
    except NoAnswer as refusal:
        if refusal.reason.code is ReasonCode.BROKEN_CONNECTION:
            return  # the bus went down with the PC
        raise Refused(TroubleCode.NOT_RESTARTED, because=(refusal.reason,)) from refusal
