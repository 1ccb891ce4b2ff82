"""Result of a replay, calibrated to the marks that were observed in the boot itself."""

from dataclasses import dataclass, replace

MOST_SLOWER = 1.25
"""Largest calibration factor: a replay that is further off missed something that scaling does not
repair."""


@dataclass(frozen=True)
class CalibrationFactors:
    """How many times longer than its replay a boot really took, up to each of its marks: ratios."""

    settled: float
    system_up: float


@dataclass(frozen=True)
class Replayed:
    """One boot replayed. Machine seconds: waits for a person are taken out."""

    settled: float
    censored: bool
    system_up: float

    def scaled_by(self, calibration: CalibrationFactors) -> "Replayed":
        """The same replay, calibrated to the boot as it really went."""
        return replace(
            self,
            settled=self.settled * calibration.settled,
            system_up=self.system_up * calibration.system_up,
        )


def calibration_of(
    whole: Replayed, settled: float | None, system_up: float | None
) -> CalibrationFactors:
    """The calibration of a boot from its replay with nothing missing and its observed marks.

    Machine seconds; None where a mark was not observed. A replay is off by one or two percent
    where cores or drive are not shared as it assumes, and what it finds is off by as much.
    """
    return CalibrationFactors(_slower(settled, whole.settled), _slower(system_up, whole.system_up))


def _slower(observed: float | None, replayed: float) -> float:
    if not observed or replayed <= 0:
        return 1.0
    return min(max(observed / replayed, 1 / MOST_SLOWER), MOST_SLOWER)
