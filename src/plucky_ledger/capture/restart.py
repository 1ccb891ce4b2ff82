"""Restarting this PC through its sign-in manager, which asks whoever has to be asked.

org.freedesktop.login1(5).
"""

import logging
import os

from plucky_ledger.core.reasons import Reason, ReasonCode
from plucky_ledger.core.trouble import Refused, TroubleCode
from plucky_ledger.linux.bus import Address, NoAnswer, opened
from plucky_ledger.linux.properties import LOGIN, LOGIN_MANAGER, LOGIN_PATH
from plucky_ledger.linux.users import FIRST_PERSON

SIGN_IN_MANAGER = Address(LOGIN, LOGIN_PATH, LOGIN_MANAGER)
log = logging.getLogger(__name__)


def what_a_restart_ends(bus_address: str = "SYSTEM") -> tuple[Reason, ...]:
    """What else a restart would end, or is held up by: others who are signed in, work going on.

    Nothing where the sign-in manager does not say.
    """
    try:
        with opened(bus_address) as bus:
            (sessions,) = bus.call(SIGN_IN_MANAGER, "ListSessions", returns="a(susso)")
            (inhibitors,) = bus.call(SIGN_IN_MANAGER, "ListInhibitors", returns="a(ssssuu)")
    except NoAnswer:
        return ()
    others = {str(row[2]) for row in sessions if row[1] != os.getuid() and row[1] >= FIRST_PERSON}
    reasons = []
    if others:
        reasons.append(Reason.of(ReasonCode.OTHERS_SIGNED_IN, names=", ".join(sorted(others))))
    for what, who, why, mode, *_ in inhibitors:
        if "shutdown" in str(what).split(":") and mode == "block":
            reasons.append(Reason.of(ReasonCode.HOLDS_UP_RESTART, who=str(who), why=str(why)))
    return tuple(reasons)


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
