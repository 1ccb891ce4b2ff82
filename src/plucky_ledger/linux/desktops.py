"""Which desktop a user has: by it sign-in programs are chosen to start."""

import os
from collections.abc import Mapping

from plucky_ledger.linux.bus import Address, NoAnswer, opened
from plucky_ledger.linux.properties import MANAGER, PATH, SERVICE, TYPES

DESKTOP = "XDG_CURRENT_DESKTOP"


OWN = "SESSION"
"""The bus of who runs this process."""


def session_environment(address: str = OWN) -> dict[str, str]:
    """What the user's session told the user's service manager of itself.

    Our own environment stands behind it only for our own session: the administrator's says nothing
    of where another person's files lie.
    """
    try:
        with opened(address) as bus:
            kept = bus.properties(Address(SERVICE, PATH, MANAGER), TYPES).get("Environment", ())
    except NoAnswer:
        kept = ()
    told = (str(item).partition("=") for item in kept)
    ours = os.environ if address == OWN else {}
    return {**ours, **{name: value for name, _, value in told}}


def desktops_of(environment: Mapping[str, str]) -> list[str]:
    """What a session says its desktop is."""
    return environment.get(DESKTOP, "").split(":")
