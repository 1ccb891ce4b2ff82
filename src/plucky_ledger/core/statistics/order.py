"""A linear trend in the order of the boots, common to both states: whether there is one, and the
boots without it.
"""

import math
from collections.abc import Sequence

from plucky_ledger.core.statistics.mixture import Centre, Mixture, Values, fit
from plucky_ledger.core.statistics.student import student_t

IN_TURNS = 1.5
"""Boots count as alternating where fitting a trend multiplies the variance of the shift by no more
than this."""
SHOWN_AT = 0.8
"""Confidence at which a trend within the states of boots in blocks is taken as possible: a drift
that is missed is taken for the change, one that is not there only makes the interval wider."""
ROUNDS = 3


def straightened(
    own: tuple[Values, ...],
    rest: tuple[Values, ...],
    orders: Sequence[Sequence[float]],
    mixture: Mixture,
) -> tuple[tuple[Values, ...], Mixture, float] | None:
    """The boots with their trend taken out, their model, and the factor by which that multiplies
    the variance of the shift; None where no trend can be fitted.
    """
    straight = own
    factor: float | None = None
    for _ in range(ROUNDS):
        slope, _error = _slope(own, orders, mixture)
        straight = tuple(
            tuple(y - slope * t for y, t in zip(side, ts, strict=True))
            for side, ts in zip(own, _centred(orders), strict=True)
        )
        fitted = fit(straight, rest)
        assert fitted is not None
        factor = variance_factor(orders, fitted)
        if factor is None:
            return None
        mixture = fitted
    assert factor is not None
    return straight, mixture, factor


def _centred(orders: Sequence[Sequence[float]]) -> list[list[float]]:
    every = [t for side in orders for t in side]
    middle = sum(every) / len(every)
    return [[t - middle for t in side] for side in orders]


def _within(orders: Sequence[Sequence[float]], centres: Sequence[Centre]) -> tuple[float, float]:
    """Weighted sum of squares of the order within the states, and the difference of their mean
    orders.
    """
    squares, means = 0.0, []
    for side, centre in zip(orders, centres, strict=True):
        mean = sum(w * t for w, t in zip(centre.weights, side, strict=True)) / centre.weight
        squares += sum(w * (t - mean) ** 2 for w, t in zip(centre.weights, side, strict=True))
        means.append(mean)
    return squares, means[1] - means[0]


def variance_factor(orders: Sequence[Sequence[float]], mixture: Mixture) -> float | None:
    """Factor by which a trend multiplies the variance; None where it cannot be fitted."""
    squares, apart = _within(orders, mixture.own)
    if squares <= 0 or mixture.degrees < 2:
        return None
    return 1.0 + apart**2 / squares / sum(1 / centre.weight for centre in mixture.own)


def _slope(
    values: Sequence[Sequence[float]], orders: Sequence[Sequence[float]], mixture: Mixture
) -> tuple[float, float]:
    """Slope of the trend common to both states, and its standard error."""
    both = squares = 0.0
    for side, ts, centre in zip(values, orders, mixture.own, strict=True):
        pairs = list(zip(centre.weights, side, ts, strict=True))
        ym = sum(w * y for w, y, _ in pairs) / centre.weight
        tm = sum(w * t for w, _, t in pairs) / centre.weight
        both += sum(w * (y - ym) * (t - tm) for w, y, t in pairs)
        squares += sum(w * (t - tm) ** 2 for w, _, t in pairs)
    slope = both / squares
    total = sum(
        w * (y - slope * t - (ym - slope * tm)) ** 2
        for side, ts, centre in zip(values, orders, mixture.own, strict=True)
        for ym in [sum(w * y for w, y in zip(centre.weights, side, strict=True)) / centre.weight]
        for tm in [sum(w * t for w, t in zip(centre.weights, ts, strict=True)) / centre.weight]
        for w, y, t in zip(centre.weights, side, ts, strict=True)
    )
    degrees = max(1.0, sum(centre.degrees for centre in mixture.own) - 1)
    return slope, math.sqrt(total / degrees / squares)


def shows(
    values: Sequence[Sequence[float]], orders: Sequence[Sequence[float]], mixture: Mixture
) -> bool:
    """Whether the boots within the states show a trend."""
    degrees = sum(centre.degrees for centre in mixture.own) - 1
    if degrees < 1:
        return False
    slope, error = _slope(values, orders, mixture)
    return error > 0 and abs(slope) > student_t(degrees, SHOWN_AT) * error
