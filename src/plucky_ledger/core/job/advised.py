"""Advice that the technician wants the owner to read."""

from dataclasses import dataclass, field
from enum import StrEnum

from plucky_ledger.core.values.estimates import Estimate
from plucky_ledger.core.values.reasons import Fact


class RuleCode(StrEnum):
    """The rules, each with its source and its counter-case in methods.md."""

    FAILING_DRIVE = "failing_drive"
    DRIVE_PINNED = "drive_pinned"
    PROCESSOR_PINNED = "processor_pinned"
    MEMORY_FULL = "memory_full"
    LITTLE_ROOM = "little_room"
    NOT_RESTARTED = "not_restarted"
    FAST_START = "fast_start"
    HEAT = "heat"
    HELD_DOWN = "held_down"
    LOADER_WAITS = "loader_waits"
    NEVER_COMES = "never_comes"
    MANY_FAILED = "many_failed"
    RESTARTS_ITSELF = "restarts_itself"
    MEMORY_GROWS = "memory_grows"
    SAME_JOB = "same_job"
    UPDATES_AT_SIGN_IN = "updates_at_sign_in"
    BEYOND_STOCK = "beyond_stock"
    CHECK_DUE = "check_due"


@dataclass(frozen=True)
class Advised:
    """A finding as it stood when it was put on the statement."""

    rule: RuleCode
    about: str = ""
    """Which of several it is about: an entry's id, a drive's name; empty where there is but one."""
    facts: dict[str, Fact] = field(default_factory=dict)
    saves: Estimate | None = None
    """Seconds sooner that the PC would be settled; None where nothing can tell."""
    settled: Estimate | None = None
    """When it would be settled then."""

    @property
    def key(self) -> str:
        """By what it is known again."""
        return f"{self.rule} {self.about}".strip()
