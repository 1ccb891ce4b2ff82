"""How much the boots of one PC differ among themselves, learned from all its rounds."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache

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
    borrowed: bool
    """It comes from the job's other rounds alone: one boot a side tells none."""


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
    return Spread(math.sqrt(variance), degrees, borrowed=own_degrees == 0)


def _squares(rounds: Sequence[Sequence[float]], measure: Measure) -> tuple[float, int]:
    """Sum of squared residuals about each round's balance, and degrees of freedom."""
    total, degrees = 0.0, 0
    for values in rounds:
        if len(values) < 2:
            continue
        middle = pseudo_median(values)
        size = _size(middle, measure)
        total += sum(((value - middle) / size) ** 2 for value in values)
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


@cache
def student_t(degrees: float, share: float = CONFIDENCE) -> float:
    """Two-sided quantile of Student's distribution, such as 2.776 for 95 % and 4 degrees.

    Halves the span in which the distribution's tail (Abramowitz and Stegun, 26.7.1) passes through
    the wanted share. The numerics package that has it takes longer to load than the window takes
    to open.
    """
    low, high = 0.0, 1.0
    while _outside(high, degrees) > 1.0 - share:
        low, high = high, 2 * high
    while high - low > 1e-12 * high:
        middle = (low + high) / 2
        if _outside(middle, degrees) > 1.0 - share:
            low = middle
        else:
            high = middle
    return high


def _outside(value: float, degrees: float) -> float:
    """Share of the distribution further out than ``value``, on both sides together.

    The incomplete beta function by its continued fraction (Lentz).
    """
    x = degrees / (degrees + value * value)
    a, b = degrees / 2, 0.5
    front = math.exp(
        math.lgamma(a + b) - math.lgamma(a) - math.lgamma(b)
        + a * math.log(x) + b * math.log(1.0 - x)
    )  # fmt: skip
    if x < (a + 1) / (a + b + 2):
        return front * _fraction(x, a, b) / a
    return 1.0 - front * _fraction(1.0 - x, b, a) / b


def _fraction(x: float, a: float, b: float) -> float:
    c, d = 1.0, 1.0 / (1.0 - (a + b) * x / (a + 1.0))
    total = d
    for m in range(1, 200):
        for term in (
            m * (b - m) * x / ((a + 2 * m - 1) * (a + 2 * m)),
            -(a + m) * (a + b + m) * x / ((a + 2 * m) * (a + 2 * m + 1)),
        ):
            d = 1.0 / (1.0 + term * d)
            c = 1.0 + term / c
            total *= c * d
        if abs(c * d - 1.0) < 1e-14:
            break
    return total
