"""How much the boots of one PC differ among themselves, learned from all its rounds."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from plucky_ledger.core.book.balance import Balance, pseudo_median
from plucky_ledger.core.measures import Measure

BORROWED_DEGREES = 8
"""Other rounds count for at most this many degrees of freedom, so that a round which is noisier
than the job's others is not judged by their calm for long."""
CONFIDENCE = 0.95
EFFICIENCY = math.pi / 3
"""Variance of the pseudo-median over that of the mean for normal noise (Lehmann, 1975)."""


@dataclass(frozen=True)
class Spread:
    """Standard deviation from boot to boot."""

    scale: float
    """As a share of the balance, or in the unit for measures that do not grow with size."""
    degrees: int
    """Degrees of freedom it rests on."""
    remark: str
    """Where it comes from, when not from the two rounds alone; empty otherwise."""


def spread_of(
    measure: Measure,
    own: Sequence[Sequence[float]],
    others: Sequence[Sequence[float]] = (),
) -> Spread | None:
    """Pooled spread of the rounds compared and, up to a limit, of the job's other rounds.

    Returns None when no round has two boots.
    """
    own_sum, own_degrees = _squares(own, measure)
    other_sum, other_degrees = _squares(others, measure)
    borrowed = min(other_degrees, BORROWED_DEGREES)
    degrees = own_degrees + borrowed
    if degrees == 0:
        return None
    variance = (own_sum + (other_sum / other_degrees * borrowed if other_degrees else 0)) / degrees
    remark = ""
    if own_degrees == 0:
        remark = "One boot a side: the spread is that of this job's other rounds."
    return Spread(math.sqrt(variance), degrees, remark)


def _squares(rounds: Sequence[Sequence[float]], measure: Measure) -> tuple[float, int]:
    """Sum of squared residuals about each round's balance, and degrees of freedom."""
    total, degrees = 0.0, 0
    for values in rounds:
        if len(values) < 2:
            continue
        column = np.asarray(values, dtype=np.float64)
        middle = pseudo_median(values)
        total += float((((column - middle) / _size(middle, measure)) ** 2).sum())
        degrees += len(values) - 1
    return total, degrees


def _size(middle: float, measure: Measure) -> float:
    """What the spread is a share of; never less than the book can tell apart."""
    terms = measure.terms
    return max(abs(middle), 10.0**-terms.decimals) if terms.grows_with_size else 1.0


def standard_error(spread: Spread, before: Balance, after: Balance) -> float:
    """Standard error of after − before, in the measure's unit.

    The rounding of both balances to book units is part of it, so that boots which happen to
    read the same never make an interval of no width.
    """
    rounding = 10.0**-before.measure.terms.decimals
    total = 2 * rounding**2 / 12
    for balance in (before, after):
        size = _size(balance.value, balance.measure)
        total += EFFICIENCY * (spread.scale * size) ** 2 / balance.boots
    return math.sqrt(total)


def student_t(degrees: int) -> float:
    """Two-sided 95 % quantile of Student's distribution."""
    from scipy.special import stdtrit

    return float(stdtrit(degrees, 0.5 + CONFIDENCE / 2))
