"""One state of a PC held against another: the shift with its interval, by all their boots.

Each boot's figure is taken on the logarithm (Cox, Biometrika 1951) and brought to one speed of the
machine by its controls. Where boots of the two states were taken in turns, a straight line in
their order is taken out as well, and where they were not, when the boots of each state themselves
show one. What is left goes through the slow-boot mixture; the error of the shift is that of its two
centres, of the exponent and of the line. Degrees of freedom after Satterthwaite (1946).
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
"""Boots count as taken in turns where a line makes the error's square at most so much larger."""
LINE_ROUNDS = 3
SHOWN_AT = 0.95
"""A line is shown by boots in blocks when chance gives one as steep in one case of twenty."""


@dataclass(frozen=True)
class BootPoint:
    """One boot's figure in one measure."""

    value: float
    """In the measure's unit."""
    order: float = 0.0
    """Place among the boots compared, by when they started."""
    speed: float = 0.0
    """Logarithm of how slow the machine was; 0 where nobody tells."""


@dataclass(frozen=True, kw_only=True)
class Estimated:
    """The shift from one state to another."""

    shift: float
    """After − before, in the measure's unit, at the speed the machine had in the later state."""
    error: float
    """Its standard error."""
    variances: tuple[float, float]
    """Squared errors of the two centres alone, per boot."""
    degrees: float
    weights: tuple[Values, Values]
    """How far each boot counts; 1 less that is its chance of having gone wrong."""
    line: bool
    """A straight line in the order of boots was taken out."""
    effective_boots: tuple[float, float]
    """How many boots each side rests on."""
    inflated: float
    """By how much line and exponent make the square of the error larger than the parts."""


def estimate(
    measure: Measure,
    sides: tuple[Sequence[BootPoint], Sequence[BootPoint]],
    others: Sequence[Sequence[BootPoint]] = (),
    exponent: Exponent | None = None,
) -> Estimated | None:
    """Hold the boots of one state against another's; ``others`` are the job's other states.

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
    """The logarithm, or for measures that do not grow with size the figure itself.

    Those are told in steps of what is noticeable, as a twentieth of the logarithm is of the others.
    """

    def __init__(self, measure: Measure, first: float) -> None:
        self.unit = 10.0**-measure.terms.decimals
        self._logarithm = measure.terms.grows_with_size
        self._step = noticeable_band(measure, first) / 0.05

    def to(self, value: float) -> float:
        """A figure on the scale that is computed on."""
        if self._logarithm:
            return math.log(max(value, self.unit / 2))
        return value / self._step

    def back(self, y: float) -> float:
        """The figure again, in the measure's unit."""
        return math.exp(y) if self._logarithm else y * self._step

    def slope(self, y: float) -> float:
        """How much the figure grows with the scale there."""
        return math.exp(y) if self._logarithm else self._step


@dataclass(frozen=True)
class _Line:
    """What taking a line out does to the square of the error of a difference."""

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
        if factor is None:  # what is left tells no line
            return fit(own, rest), _Line()
        mixture = fitted
    return mixture, _Line(factor, taken=True)


def _centred(orders: Sequence[Sequence[float]]) -> list[list[float]]:
    every = [t for side in orders for t in side]
    middle = sum(every) / len(every)
    return [[t - middle for t in side] for side in orders]


def _within(orders: Sequence[Sequence[float]], centres: Sequence[Centre]) -> tuple[float, float]:
    """Weighted squares of the order within the sides, and the distance of the sides' means."""
    squares, means = 0.0, []
    for side, centre in zip(orders, centres, strict=True):
        mean = sum(w * t for w, t in zip(centre.weights, side, strict=True)) / centre.weight
        squares += sum(w * (t - mean) ** 2 for w, t in zip(centre.weights, side, strict=True))
        means.append(mean)
    return squares, means[1] - means[0]


def _factor(orders: Sequence[Sequence[float]], mixture: Mixture) -> float | None:
    """By how much a line makes the square of the error larger; None where it cannot be told."""
    squares, apart = _within(orders, mixture.own)
    if squares <= 0 or mixture.degrees < 2:
        return None
    return 1.0 + apart**2 / squares / sum(1 / centre.weight for centre in mixture.own)


def _slope(
    values: Sequence[Sequence[float]], orders: Sequence[Sequence[float]], mixture: Mixture
) -> tuple[float, float]:
    """Slope of the line common to both sides, and its standard error."""
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
    """Whether the boots of each side by themselves go one way."""
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
