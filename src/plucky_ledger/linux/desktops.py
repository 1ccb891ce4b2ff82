"""Which desktop a user has: by it sign-in programs are chosen to start."""

import os

from plucky_ledger.linux.bus import Address, NoAnswer, opened
from plucky_ledger.linux.properties import MANAGER, PATH, SERVICE, TYPES

DESKTOP = "XDG_CURRENT_DESKTOP="


def desktops_of(address: str = "SESSION") -> list[str]:
    """What the user's session says it is, as told to the user's service manager."""
    try:
        with opened(address) as bus:
            kept = bus.properties(Address(SERVICE, PATH, MANAGER), TYPES).get("Environment", ())
    except NoAnswer:
        kept = ()
    names = [str(item).removeprefix(DESKTOP) for item in kept if str(item).startswith(DESKTOP)]
    return (names[0] if names else os.environ.get(DESKTOP.strip("="), "")).split(":")
