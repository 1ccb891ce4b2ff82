"""Grades: how much an entry weighs, from its shares of settled and of the PC's memory."""

from dataclasses import dataclass
from enum import StrEnum
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from plucky_ledger.core.cost.startup_cost import StartupCost


class Grade(StrEnum):
    """How much an entry weighs."""

    HEAVY = "heavy"
    MODERATE = "moderate"
    LIGHT = "light"
    NEGLIGIBLE = "negligible"
    UNGRADED = "ungraded"


@dataclass(frozen=True)
class GradeThresholds:
    """From which share an entry is of a grade: of settled, or of the PC's memory."""

    heavy: float = 0.05
    moderate: float = 0.02
    light: float = 0.005

    def of(self, grade: Grade) -> float:
        """From which share an entry is of a grade; 0 for those below light."""
        levels = {Grade.HEAVY: self.heavy, Grade.MODERATE: self.moderate, Grade.LIGHT: self.light}
        return levels.get(grade, 0.0)


def grade_of(
    cost: "StartupCost",
    settled_seconds: float,
    memory_total_bytes: float,
    thresholds: GradeThresholds,
) -> Grade:
    """Grade from the larger share of settled or of the PC's memory."""
    if cost.settled is None or settled_seconds <= 0:
        return Grade.UNGRADED
    share = max(0.0, cost.settled.value) / settled_seconds
    if memory_total_bytes > 0:
        share = max(share, cost.use.memory_bytes / memory_total_bytes)
    if share >= thresholds.heavy:
        return Grade.HEAVY
    if share >= thresholds.moderate:
        return Grade.MODERATE
    return Grade.LIGHT if share >= thresholds.light else Grade.NEGLIGIBLE
