"""Sample size: how many more boots would decide a comparison with a probability of 80 %.

Assurance: the power averaged over what the true shift and spread may be, given the boots so far
(Spiegelhalter and others, Controlled Clinical Trials 1986). Power at the estimated values would
promise too much after few boots.
"""

import math

from plucky_ledger.core.statistics.comparison import Estimated
from plucky_ledger.core.statistics.student import student_t

WORTH_BOOTS = 12
"""Most boots a side that are worth a technician's time."""
FEWEST_BOOTS = 3
"""Fewest boots a side for a verdict; a round is asked for as many."""
SURE_ENOUGH = 0.8
NORMAL_TENTHS = (-1.645, -1.036, -0.674, -0.385, -0.126, 0.126, 0.385, 0.674, 1.036, 1.645)
"""Midpoints of ten equally likely parts of the standard normal distribution."""


def more_boots(
    estimated: Estimated, boots: tuple[int, int], band: float, level: float
) -> tuple[int, int] | None:
    """Fewest further boots before and after: in the later state alone, which the PC is in, or else
    of both.

    ``band`` is the smallest shift that counts; ``level`` the two-sided one of the stamp. None where
    no number worth a technician's time is likely enough to decide.
    """
    for both in (False, True):
        for wanted in range(max(boots[1] + 1, FEWEST_BOOTS), WORTH_BOOTS + 1):
            then = (max(boots[0], wanted if both else 0, FEWEST_BOOTS), wanted)
            if _chance_of_a_decision(estimated, boots, then, band, level) >= SURE_ENOUGH:
                return then[0] - boots[0], wanted - boots[1]
    return None


def _chance_of_a_decision(
    now: Estimated, boots: tuple[int, int], then: tuple[int, int], band: float, level: float
) -> float:
    """Power averaged over the possible true spreads, which few boots do not tell well."""
    effective_boots = [
        rest * (more / had)
        for rest, more, had in zip(now.effective_boots, then, boots, strict=True)
    ]
    squared = now.inflated * sum(
        part / rest for part, rest in zip(now.variances, effective_boots, strict=True)
    )
    degrees = now.degrees + sum(then) - sum(boots)
    caution = now.strict_error / now.error
    strict = student_t(round(degrees, 2), 1 - level) * math.sqrt(squared) * caution
    spread = math.sqrt(max(now.error**2 - squared, 1e-12))
    chances = [
        _decided(now.shift, spread * scale, strict * scale, band) for scale in _scales(now.degrees)
    ]
    return sum(chances) / len(chances)


def _decided(shift: float, spread: float, strict: float, band: float) -> float:
    def below(value: float) -> float:
        return math.erfc((shift - value) / spread / math.sqrt(2)) / 2

    least = max(strict, band)
    decided = below(-least) + 1 - below(least)
    if strict < band:
        decided += below(band - strict) - below(strict - band)
    return decided


def _scales(degrees: float) -> list[float]:
    """Equally likely true spreads relative to the estimated one (chi-squared by Wilson and
    Hilferty, 1931).
    """
    small = 2 / (9 * degrees)
    return [max(0.1, 1 - small + z * math.sqrt(small)) ** -1.5 for z in NORMAL_TENTHS]
