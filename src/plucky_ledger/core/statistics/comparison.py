"""Comparison of two states of a PC: the shift from one to the other, with its standard error.

The model is ln(figure) = state + b · speed (+ c · order) + error (Cox, Biometrika 1951, for the
logarithm). The speed of the machine in each boot comes from its control variables and the exponent
b from the whole job. The linear trend c in the order of the boots is fitted where the boots of both
states alternate, because it costs little there, and otherwise where the boots within each state
show one. The residuals are weighted by the mixture model for slow boots; the variance of the shift
is that of the two centres, of the exponent and of the trend, with degrees of freedom after
Satterthwaite (Biometrics Bulletin 1946).

It breaks where a trend is not linear and the states do not alternate: then the trend and the change
cannot be separated.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from plucky_ledger.core.statistics.controls import Exponent
from plucky_ledger.core.statistics.mixture import PRIOR_DEGREES as PRIOR
from plucky_ledger.core.statistics.mixture import Centre, Mixture, Values, fit
from plucky_ledger.core.statistics.student import student_t
from plucky_ledger.core.values.measures import Measure, noticeable_band

IN_TURNS = 1.5
"""Boots count as alternating where fitting a trend multiplies the variance of the shift by no more
than this."""
LINE_ROUNDS = 3
SHOWN_AT = 0.95
"""Confidence at which a trend within the states of boots in blocks is taken as shown."""


@dataclass(frozen=True)
class BootPoint:
    """One boot's figure in one measure."""

    value: float
    """In the measure's unit."""
    order: float = 0.0
    """Rank among the compared boots by the time they started."""
    speed: float = 0.0
    """Logarithm of the machine's slowness, from its controls; 0 where there are none."""


@dataclass(frozen=True, kw_only=True)
class Estimated:
    """The estimated shift from one state to another."""

    shift: float
    """After − before, in the measure's unit, at the speed the machine had in the later state."""
    error: float
    """Its standard error."""
    variances: tuple[float, float]
    """Variances of the two centres, per boot."""
    degrees: float
    weights: tuple[Values, Values]
    """Weight of each boot: 1 less its probability of having gone wrong."""
    line: bool
    """Whether a linear trend in the order of the boots was fitted."""
    effective_boots: tuple[float, float]
    """Effective number of boots on each side: the sum of their weights."""
    inflated: float
    """Factor by which trend and exponent multiply the variance of the shift."""


def estimate(
    measure: Measure,
    sides: tuple[Sequence[BootPoint], Sequence[BootPoint]],
    others: Sequence[Sequence[BootPoint]] = (),
    exponent: Exponent | None = None,
) -> Estimated | None:
    """The shift between the boots of two states; ``others`` are the job's other states, which lend
    what they show of the spread.

    Returns None where no state has two boots.
    """
    scale = Scale(measure, sides[0][0].value)
    at = [sum(p.speed for p in side) / len(side) for side in sides]
    taken = exponent.value if exponent is not None else 0.0
    values = [
        [scale.to(p.value) - taken * (p.speed - at[1]) for p in side] for side in (*sides, *others)
    ]
    rest = tuple(tuple(group) for group in values[2:])
    orders = [[p.order for p in side] for side in sides]
    mixture, line = _with_line(values[:2], orders, rest)
    if mixture is None:
        return None
    speed_correction_error = (at[1] - at[0]) * exponent.error if exponent is not None else 0.0
    return _estimated(measure, scale, mixture, line, speed_correction_error)


class Scale:
    """The scale that is computed on: the logarithm, or for measures that are not proportional to
    the machine's speed the figure itself, in steps that are as noticeable as a twentieth of the
    logarithm.
    """

    def __init__(self, measure: Measure, first: float) -> None:
        self.unit = 10.0**-measure.terms.decimals
        self._logarithm = measure.terms.grows_with_size
        self._step = noticeable_band(measure, first) / 0.05

    def to(self, value: float) -> float:
        """A figure in the measure's unit, on the scale."""
        if self._logarithm:
            return math.log(max(value, self.unit / 2))
        return value / self._step

    def back(self, y: float) -> float:
        """A value of the scale, in the measure's unit."""
        return math.exp(y) if self._logarithm else y * self._step

    def slope(self, y: float) -> float:
        """Derivative of the figure by the scale, there."""
        return math.exp(y) if self._logarithm else self._step


@dataclass(frozen=True)
class _Line:
    """Effect of fitting a trend on the variance of the shift."""

    factor: float = 1.0
    taken: bool = False


def _with_line(
    values: Sequence[Sequence[float]], orders: Sequence[Sequence[float]], rest: tuple[Values, ...]
) -> tuple[Mixture | None, _Line]:
    own = tuple(tuple(side) for side in values)
    mixture = fit(own, rest)
    if mixture is None:
        return None, _Line()
    factor = _factor(orders, mixture)
    if factor is None or not (factor <= IN_TURNS or _shows(own, orders, mixture)):
        return mixture, _Line()
    for _ in range(LINE_ROUNDS):
        slope, _error = _slope(own, orders, mixture)
        straightened = tuple(
            tuple(y - slope * t for y, t in zip(side, ts, strict=True))
            for side, ts in zip(own, _centred(orders), strict=True)
        )
        fitted = fit(straightened, rest)
        assert fitted is not None
        factor = _factor(orders, fitted)
        if factor is None:  # too few degrees of freedom are left for a trend
            return fit(own, rest), _Line()
        mixture = fitted
    return mixture, _Line(factor, taken=True)


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


def _factor(orders: Sequence[Sequence[float]], mixture: Mixture) -> float | None:
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


def _shows(
    values: Sequence[Sequence[float]], orders: Sequence[Sequence[float]], mixture: Mixture
) -> bool:
    """Whether the boots within the states show a trend."""
    degrees = sum(centre.degrees for centre in mixture.own) - 1
    if degrees < 1:
        return False
    slope, error = _slope(values, orders, mixture)
    return error > 0 and abs(slope) > student_t(degrees, SHOWN_AT) * error


def _estimated(
    measure: Measure, scale: Scale, mixture: Mixture, line: _Line, speed_correction_error: float
) -> Estimated:
    rounding = 10.0 ** (-2 * measure.terms.decimals) / 12
    middles = [centre.middle for centre in mixture.own]
    squared = [
        scale.slope(centre.middle) ** 2 * variance
        for centre, variance in zip(mixture.own, mixture.variances(), strict=True)
    ]
    variances = [s / centre.weight for s, centre in zip(squared, mixture.own, strict=True)]
    total = sum(variances)
    grain = rounding * sum(1 / centre.weight for centre in mixture.own)
    error = math.sqrt(
        total * line.factor + grain + (scale.slope(middles[1]) * speed_correction_error) ** 2
    )
    pooled = mixture.degrees - (1.0 if line.taken else 0.0)
    each = sum(
        part**2 / (PRIOR + centre.degrees)
        for part, centre in zip(variances, mixture.own, strict=True)
    )
    degrees = max(1.0, min(pooled, total**2 / each) if each > 0 else pooled)
    return Estimated(
        shift=scale.back(middles[1]) - scale.back(middles[0]),
        error=error,
        variances=(squared[0] + rounding, squared[1] + rounding),
        degrees=round(degrees, 2),
        weights=(mixture.own[0].weights, mixture.own[1].weights),
        line=line.taken,
        effective_boots=(mixture.own[0].weight, mixture.own[1].weight),
        inflated=error**2 / max(total + grain, 1e-300),
    )
