"""Arming: for how many boots, and how early the recorder starts."""

from dataclasses import dataclass
from enum import StrEnum

MOST_BOOTS = 40
LOOK_SECONDS, LONGEST_LOOK_SECONDS = 300.0, 3600.0
"""How long what comes after settled is looked at, slowly, unless somebody wants it otherwise; and
how long at most."""
OWN_STARTER = "plucky-ledger-recorder"
"""Name of what starts the armed recorder: it would not be there otherwise, and is no entry."""
NIGHT_SHIFT = "plucky-ledger-night-shift.service"
"""Unit of what goes through a night shift at each of its boots."""
OWN_UNITS = frozenset({f"{OWN_STARTER}.service", NIGHT_SHIFT})
NO_ENTRIES = OWN_UNITS | {f"{OWN_STARTER}.desktop"}
"""Files that are no startup entries: a manager may make a unit of the desktop entry."""


class Level(StrEnum):
    """How early the recorder starts."""

    SYSTEM = "system"
    """With the system's own services; needs the administrator."""
    USER = "user"
    """With the user's services, at sign-in."""
    AUTOSTART = "autostart"
    """As a sign-in program, where there is no user manager."""


NO_NOTICES = ("", "", "")


MOST_EVERY, MOST_KEPT = 100, 1000


@dataclass(frozen=True)
class Care:
    """A recorder that stays on a PC for good."""

    every: int = 5
    """One boot in so many is recorded."""
    keep: int = 30
    """Recordings that stay on the PC, the newest."""
    hand_to: str = ""
    """Path of a folder that copies go into whenever it is there, or address of a ledger; empty for
    none."""
    hand_by: tuple[str, ...] = ()
    """Command that the user runs to hand them to a ledger; empty for a folder."""


@dataclass(frozen=True)
class Afterwards:
    """What an armed recorder does once it has recorded a boot."""

    look_seconds: float = LOOK_SECONDS
    """For how long it looks on, slowly; 0 for not at all."""
    notices: tuple[str, ...] = NO_NOTICES
    """What it tells the user then, after a boot, after the last of them, and of when it was calm,
    in their language: "{n}" stands for its number, "{boots}" for all, "{seconds}" for the last.
    Empty for nothing."""
    care: Care | None = None
    """It stays for good; None where it takes itself away after the last boot."""


NOTHING_AFTERWARDS, LOOKS_ON = Afterwards(0.0), Afterwards()
