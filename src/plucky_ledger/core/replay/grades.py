"""Grades: how much an entry weighs, from its shares of settled and of the PC's memory."""

from dataclasses import dataclass
from enum import StrEnum
from typing import TYPE_CHECKING

from plucky_ledger.core.values.reasons import ReasonCode

if TYPE_CHECKING:
    from plucky_ledger.core.replay.startup_cost import StartupCost


class Grade(StrEnum):
    """How much an entry weighs."""

    HEAVY = "heavy"
    MODERATE = "moderate"
    LIGHT = "light"
    NEGLIGIBLE = "negligible"
    NOT_KNOWN_YET = "not_known_yet"
    """What it costs may be nothing and may be much."""
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
    system_up_seconds: float = 0.0,
) -> Grade:
    """Grade from the largest share that is known: of settled, or of system up where the PC never
    settled, and of the PC's memory.
    """
    shares = []
    if cost.settled is not None and settled_seconds > 0:
        shares.append(max(0.0, cost.settled.value) / settled_seconds)
    elif cost.system_up is not None and system_up_seconds > 0:
        shares.append(max(0.0, cost.system_up.value) / system_up_seconds)
    if not shares:
        return Grade.UNGRADED
    if memory_total_bytes > 0:
        shares.append(cost.use.memory_bytes / memory_total_bytes)
    certain = cost.settled or cost.system_up
    unsure = cost.no_grade is not None and cost.no_grade.code is ReasonCode.NOT_KNOWN_YET
    if unsure or (certain is not None and certain.low <= 0):
        # What may be nothing weighs nothing; the memory it holds is certain.
        shares[0] = 0.0
    share = max(shares)
    if share >= thresholds.heavy:
        return Grade.HEAVY
    if share >= thresholds.moderate:
        return Grade.MODERATE
    if share >= thresholds.light:
        return Grade.LIGHT
    return Grade.NOT_KNOWN_YET if unsure else Grade.NEGLIGIBLE
