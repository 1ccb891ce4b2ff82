"""By what the same program is known on another PC."""

from dataclasses import dataclass
from enum import StrEnum


class Match(StrEnum):
    """By what a program was known again, the surest first."""

    PACKAGE = "package"
    PROGRAM = "program"
    ENTRY = "entry"


@dataclass(frozen=True)
class Identity:
    """By what the same program is known on other PCs, the surest first."""

    package: str = ""
    """Name of the owning package, without version."""
    executable: str = ""
    entry_id: str = ""

    def matches(self, other: "Identity") -> "Match | None":
        """By what two are the same program; None when they are not.

        Different packages are different programs, whatever else is alike.
        """
        if self.package and other.package:
            if self.package != other.package:
                return None
            same = not self.executable or self.executable == other.executable
            return Match.PACKAGE if same or self.entry_id == other.entry_id else None
        if self.executable and self.executable == other.executable:
            return Match.PROGRAM
        return Match.ENTRY if self.entry_id and self.entry_id == other.entry_id else None


UNKNOWN = Identity()
"""Nothing is known of the program."""
