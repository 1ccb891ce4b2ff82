"""What is decided about startup entries, and by what a program is known again on another PC."""

from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum

from plucky_ledger.core.entries.commands import unwrapped
from plucky_ledger.core.entries.entry import StartupEntry


class Decision(StrEnum):
    """What shall become of an entry."""

    KEEP = "keep"
    OFF = "off"
    LATER = "later"
    LOOK_UP = "look_up"


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


@dataclass(frozen=True, kw_only=True)
class Decided:
    """One decision about one entry of one job."""

    entry_id: str
    decision: Decision
    decided_at: datetime
    name: str = ""
    """What the entry is called, for the look-up list."""
    reason: str = ""
    finding: str = ""
    """What looking it up has told."""
    identity: Identity = Identity()


def identity_of(entry: StartupEntry) -> Identity:
    """By what an entry's program is known again."""
    return Identity(
        package=entry.package.split(" ", 1)[0],
        executable=entry.executable or unwrapped(entry.command).program,
        entry_id=entry.entry_id,
    )
