"""Neighbouring boots that are alike: how much less they tell than as many independent ones.

Where a boot resembles the one before it, because the host is busy for an hour or caches stay warm,
the boots of a round agree with each other better than with those of another round. One coefficient
of an autoregressive series of first order is estimated from the residuals of both states in their
order; by it the variance of the shift grows (Box, Jenkins and Reinsel, Time Series Analysis, 1994).
For the interval it is drawn towards none. For a stamp it is drawn towards alike, until some boots
have shown that they are not: what is stamped falsely is worse than what is not stamped yet.
"""

import math
from collections.abc import Sequence
from itertools import pairwise
from typing import NamedTuple

from plucky_ledger.core.statistics.mixture import Centre, Mixture, Values

MOST_ALIKE = 0.8


class Prior(NamedTuple):
    """What is taken for true of neighbours before any boot is seen."""

    alike: float
    pairs: float
    """Pairs of neighbours that it is worth."""


NONE_ALIKE = Prior(0.0, 3.0)
"""For what is known best."""
MAYBE_ALIKE = Prior(0.6, 22.0)
"""For what is stamped: few boots hardly show that neighbours are alike, and a stamp is looked at
after every boot."""


class Residual(NamedTuple):
    """One boot about the centre of its state."""

    away: float
    weight: float
    unlike: float
    """How unlike its neighbour it is by being one of few."""


def neighbours_factor(
    sides: Sequence[Values],
    orders: Sequence[Sequence[float]],
    mixture: Mixture,
    rest: Sequence[Values] = (),
    prior: Prior = NONE_ALIKE,
) -> float:
    """Factor by which the likeness of neighbours multiplies the variance of the shift, 1 or more.

    ``sides`` are the figures of the boots, ``orders`` their ranks in time, all alike where they are
    not known; ``rest`` those of the job's other states, each in its order, which tell of likeness
    as well.
    """
    known = sorted(order for side in orders for order in side)
    if any(one == two for one, two in pairwise(known)):
        return 1.0
    compared = [
        (order, residual)
        for side, ts, centre in zip(sides, orders, mixture.own, strict=True)
        for order, residual in zip(ts, _residuals(side, centre), strict=True)
    ]
    series = [[residual for _, residual in sorted(compared, key=lambda boot: boot[0])]]
    lending = [side for side in rest if len(side) > 1]
    series += [_residuals(*pair) for pair in zip(lending, mixture.others, strict=True)]
    alike = _coefficient(series, prior)
    if alike <= 0 or all(len(side) < 2 for side in sides):
        return 1.0
    places: list[float] = []
    parts: list[float] = []
    left = free = 0.0
    for sign, ts, centre in zip((-1.0, 1.0), orders, mixture.own, strict=True):
        places += ts
        parts += [sign * weight / centre.weight for weight in centre.weights]
        boots = len(ts)
        left += boots - _summed(ts, [1.0] * boots, alike) / boots
        free += boots - 1
    # What the boots of a state have in common is missing in their spread as well.
    missing = free / max(left, free * (1 - MOST_ALIKE))
    alone = math.fsum(part * part for part in parts)
    return max(1.0, missing * _summed(places, parts, alike) / alone)


def _residuals(side: Values, centre: Centre) -> list[Residual]:
    return [
        Residual(value - centre.middle, weight, 1 / len(side))
        for value, weight in zip(side, centre.weights, strict=True)
    ]


def _summed(places: Sequence[float], parts: Sequence[float], alike: float) -> float:
    """Variance of a weighted sum of the series, in that of one boot.

    The sum of ``alike`` to the power of the distance over all pairs, in one pass in their order.
    """
    total = before = 0.0
    last = math.inf
    for at, part in sorted(zip(places, parts, strict=True)):
        # What the parts before it come to here: each fades with every step.
        before *= alike ** max(0.0, at - last) if last < math.inf else 0.0
        total += part * (part + 2 * before)
        before += part
        last = at
    return total


def _coefficient(series: Sequence[Sequence[Residual]], prior: Prior) -> float:
    """How alike neighbours are, drawn towards the prior and brought to a whole series: what is
    left of few boots, whose sum is nothing, is unlike by itself.
    """
    found, pairs = prior.alike * prior.pairs, prior.pairs
    for boots in series:
        spread = math.fsum(b.weight * b.away**2 for b in boots) / math.fsum(b.weight for b in boots)
        if spread <= 0:
            continue
        for one, two in pairwise(boots):
            weight = math.sqrt(one.weight * two.weight)
            found += weight * (one.away * two.away / spread + (one.unlike + two.unlike) / 2)
            pairs += weight
    return min(MOST_ALIKE, found / pairs)
