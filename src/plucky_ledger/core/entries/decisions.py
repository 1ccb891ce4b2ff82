"""What is decided about startup entries."""

from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum

from plucky_ledger.core.entries.identity import UNKNOWN, Identity


class Decision(StrEnum):
    """What shall become of an entry."""

    KEEP = "keep"
    OFF = "off"
    LATER = "later"
    LOOK_UP = "look_up"


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
    identity: Identity = UNKNOWN

    @property
    def looked_up(self) -> bool:
        """Whether somebody is to find out about it, or has."""
        return self.decision is Decision.LOOK_UP or bool(self.finding)
