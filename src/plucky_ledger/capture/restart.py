"""Restarting this PC through its sign-in manager, which asks whoever has to be asked."""

import logging

from plucky_ledger.core.reasons import ReasonCode
from plucky_ledger.core.trouble import Refused, TroubleCode
from plucky_ledger.linux.bus import Address, NoAnswer, opened
from plucky_ledger.linux.properties import LOGIN, LOGIN_MANAGER, LOGIN_PATH

SIGN_IN_MANAGER = Address(LOGIN, LOGIN_PATH, LOGIN_MANAGER)
log = logging.getLogger(__name__)


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
