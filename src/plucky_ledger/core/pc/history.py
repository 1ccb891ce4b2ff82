"""A PC's history over months: packages, starts, sleep."""

from dataclasses import dataclass
from datetime import date, datetime
from enum import StrEnum


class PackageAction(StrEnum):
    """What was done with a package."""

    INSTALLED = "installed"
    UPDATED = "updated"
    REMOVED = "removed"


@dataclass(frozen=True)
class PackageEvent:
    """One package on one day, in the PC's own time."""

    day: date
    action: PackageAction
    name: str
    version: str = ""


@dataclass(frozen=True)
class PowerLog:
    """When a PC was started and when it woke from sleep, oldest first, as its own logs tell."""

    starts: tuple[datetime, ...] = ()
    wakes: tuple[datetime, ...] = ()
