"""What was installed, updated or removed on a PC, and when."""

from dataclasses import dataclass
from datetime import date
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
