"""Comparison of two states of a PC: the shift from one to the other, with its standard error.

The model is ln(figure) = state + b · speed (+ c · order) + error (Cox, Biometrika 1951, for the
logarithm). The speed of the machine in each boot comes from its control variables and the exponent
b from the whole job. The linear trend c in the order of the boots is fitted where the boots of both
states alternate, because it costs little there. In boots recorded in blocks a trend and a step look
alike: where the boots within the states show one, the shift is estimated with it and without it,
and both have to be held against. The residuals are weighted by the mixture model for boots that
went wrong; the variance of the shift is that of the two centres, of the exponent and of the trend,
with degrees of freedom after Satterthwaite (Biometrics Bulletin 1946).

It breaks where the machine changes between two blocks and not within them: nothing then tells that
from the change.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

from plucky_ledger.core.statistics.controls import Exponent
from plucky_ledger.core.statistics.mixture import PRIOR_DEGREES as PRIOR
from plucky_ledger.core.statistics.mixture import Mixture, Values, fit
from plucky_ledger.core.statistics.neighbours import MAYBE_ALIKE, NONE_ALIKE, neighbours_factor
from plucky_ledger.core.statistics.order import IN_TURNS, shows, straightened, variance_factor
from plucky_ledger.core.statistics.student import CONFIDENCE, outside, student_t
from plucky_ledger.core.values.measures import Measure, noticeable_band


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
    strict_error: float
    """The same for a stamp: neighbours are taken for as alike as they may be."""
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
    by_speed: float = 0.0
    """How far bringing the boots to one speed of the machine moved the shift."""
    in_turns: bool = False
    """The boots of both states alternate."""
    rival: "Estimated | None" = None
    """The same with a trend, where boots in blocks show one: it cannot be told from the change."""

    def interval(self) -> tuple[float, float]:
        """Where the shift lies at 95 %; with a rival, where either says it may."""
        low, high = self._about(student_t(self.degrees, CONFIDENCE) * self.error)
        if self.rival is None:
            return low, high
        others = self.rival.interval()
        return min(low, others[0]), max(high, others[1])

    def strict_interval(self, level: float) -> tuple[float, float]:
        """Where it lies for a stamp at this two-sided level, whatever the rival says."""
        return self._about(student_t(self.degrees, 1 - level) * self.strict_error)

    def _about(self, half: float) -> tuple[float, float]:
        return self.shift - half, self.shift + half

    @property
    def chance(self) -> float:
        """Chance of a shift so far from nothing where there is none, for a stamp."""
        own = outside(abs(self.shift) / self.strict_error, self.degrees)
        return own if self.rival is None else max(own, self.rival.chance)


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
        tuple(scale.to(p.value * math.exp(-taken * (p.speed - at[1]))) for p in side)
        for side in (*sides, *others)
    ]
    own, rest = tuple(values[:2]), tuple(values[2:])
    orders = [[p.order for p in side] for side in sides]
    mixture = fit(own, rest)
    if mixture is None:
        return None
    speed_error = (at[1] - at[0]) * exponent.error if exponent is not None else 0.0

    quicker = 1 - math.exp(taken * (at[0] - at[1]))

    def estimated(fitted: _Fit) -> Estimated:
        found = _estimated(measure, scale, fitted, rest, orders, speed_error)
        return replace(found, by_speed=scale.back(fitted.mixture.own[0].middle) * quicker)

    plain = estimated(_Fit(own, mixture))
    factor = variance_factor(orders, mixture)
    in_turns = factor is not None and factor <= IN_TURNS
    if factor is None or not (in_turns or shows(own, orders, mixture)):
        return plain
    straight = straightened(own, rest, orders, mixture)
    if straight is None:  # too few degrees of freedom are left for a trend
        return plain
    with_trend = estimated(_Fit(*straight))
    if in_turns:
        return replace(with_trend, in_turns=True)
    return replace(plain, rival=with_trend)


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
class _Fit:
    """A fitted model of both sides."""

    sides: tuple[Values, ...]
    """The boots on the scale, with the trend taken out where there is one."""
    mixture: Mixture
    trend: float | None = None
    """Factor by which a trend multiplies the variance of the shift; None without one."""


def _estimated(
    measure: Measure,
    scale: Scale,
    fitted: _Fit,
    rest: Sequence[Values],
    orders: Sequence[Sequence[float]],
    speed_error: float,
) -> Estimated:
    mixture = fitted.mixture
    usual, strict = (
        neighbours_factor(fitted.sides, orders, mixture, rest, prior)
        for prior in (NONE_ALIKE, MAYBE_ALIKE)
    )
    rounding = 10.0 ** (-2 * measure.terms.decimals) / 12
    middles = [centre.middle for centre in mixture.own]
    squared = [
        scale.slope(centre.middle) ** 2 * variance
        for centre, variance in zip(mixture.own, mixture.variances(), strict=True)
    ]
    variances = [s / centre.weight for s, centre in zip(squared, mixture.own, strict=True)]
    total = sum(variances)
    grain = rounding * sum(1 / centre.weight for centre in mixture.own)
    besides = grain + (scale.back(middles[1]) * speed_error) ** 2
    error, strict_error = (
        math.sqrt(total * (fitted.trend or 1.0) * factor + besides)
        for factor in (usual, max(usual, strict))
    )
    pooled = mixture.degrees - (1.0 if fitted.trend else 0.0)
    each = sum(
        part**2 / (PRIOR + centre.degrees)
        for part, centre in zip(variances, mixture.own, strict=True)
    )
    degrees = max(1.0, min(pooled, total**2 / each) if each > 0 else pooled)
    return Estimated(
        shift=scale.back(middles[1]) - scale.back(middles[0]),
        error=error,
        strict_error=strict_error,
        variances=(squared[0] + rounding, squared[1] + rounding),
        degrees=round(degrees, 2),
        weights=(mixture.own[0].weights, mixture.own[1].weights),
        line=fitted.trend is not None,
        effective_boots=(mixture.own[0].weight, mixture.own[1].weight),
        inflated=error**2 / max(total + grain, 1e-300),
    )
