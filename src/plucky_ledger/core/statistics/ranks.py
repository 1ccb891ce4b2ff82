"""Rank test for censored boots: those that never settled in their recording."""

import math
from collections.abc import Sequence
from functools import cache
from statistics import median

from plucky_ledger.core.values.measures import Reading

MANY = 60
"""From this many boots on the normal approximation is used."""


def surely_below(
    lower: Sequence[Reading], upper: Sequence[Reading], band: float, level: float
) -> bool:
    """Whether one side lies below the other by a noticeable amount (Mann and Whitney, Annals of
    Mathematical Statistics 1947).

    A censored boot of the lower side ranks highest, one of the upper side at its bound: both make
    the test conservative. ``level`` is one-sided.
    """
    low = [math.inf if reading.censored else reading.value for reading in lower]
    high = [reading.value for reading in upper]
    against = sum(a > b for a in low for b in high) + sum(a == b for a in low for b in high)
    chance = _chance(len(low), len(high), against)
    return chance <= level and median(high) - median(low) >= band


def _chance(first: int, second: int, against: int) -> float:
    """Probability of a U statistic this small where both sides are alike."""
    if first + second > MANY:
        middle = first * second / 2
        spread = math.sqrt(first * second * (first + second + 1) / 12)
        return math.erfc((middle - against - 0.5) / spread / math.sqrt(2)) / 2
    ways = sum(_ways(first, second, u) for u in range(against + 1))
    return ways / math.comb(first + second, first)


@cache
def _ways(first: int, second: int, against: int) -> int:
    """Number of rankings of the two sides with Mann-Whitney U = n."""
    if against < 0:
        return 0
    if first == 0 or second == 0:
        return int(against == 0)
    return _ways(first - 1, second, against - second) + _ways(first, second - 1, against)
