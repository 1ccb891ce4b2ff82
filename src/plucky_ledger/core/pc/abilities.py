"""What a PC can do for us from here."""

from dataclasses import dataclass
from enum import StrEnum

from plucky_ledger.core.pc.arming import Level


class RecordHow(StrEnum):
    """What recording a boot of a PC means."""

    AT_ONCE = "at_once"
    """It is recorded from now on; its start is filled in as far as the system knows it."""
    RESTARTS = "restarts"
    """It is restarted, and recorded from its first second."""
    NOT_HERE = "not_here"
    """It is another PC: its recordings are imported."""


@dataclass(frozen=True, kw_only=True)
class Abilities:
    """What can be asked of a PC from here."""

    record: RecordHow
    levels: tuple[Level, ...] = ()
    """How early the recorder can be made to start with its next boots, the earliest first; empty
    where it cannot."""
    past_boots: bool = False
    """Its past boots can be read back."""
    facts: bool = False
    """What it has can be read."""
    speed: float = 1.0
    """How much faster than the wall clock its time goes by."""
    seconds: float | None = None
    """How long it is recorded; None where that is for the technician to say."""

    @property
    def arm(self) -> bool:
        """Whether the recorder can be made to start with its next boots."""
        return bool(self.levels)
