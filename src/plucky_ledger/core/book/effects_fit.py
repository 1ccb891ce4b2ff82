"""The linear model behind the effects of changes, fitted by weighted least squares, with the trend
in the order of the boots where it can be told, and as a rival where it cannot.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plucky_ledger.core.book.states_compared import exponent_within
from plucky_ledger.core.boots.boot import Boot
from plucky_ledger.core.job.job import State
from plucky_ledger.core.statistics.comparison import Scale
from plucky_ledger.core.statistics.controls import IN_MACHINE_TIME, speed_of, usable
from plucky_ledger.core.statistics.mixture import fit
from plucky_ledger.core.statistics.order import IN_TURNS, SHOWN_AT
from plucky_ledger.core.statistics.student import student_t
from plucky_ledger.core.values.measures import Measure

Matrix = NDArray[np.float64]
BOOTS_FOR_WEIGHTS = 4
"""Boots per coefficient from which on outlying boots get a smaller weight."""
DEGREES_FOR_LINE = 3
"""Degrees of freedom left when the effects and a trend are fitted."""
NOTHING = 1e-9
"""A singular value this small is none."""


@dataclass(frozen=True)
class EffectEstimates:
    """Coefficients with their standard errors, and the scale they are on."""

    values: Matrix
    """One for each column of the design."""
    errors: Matrix | None
    degrees: float
    level: float
    """Where the PC is now, on the scale the coefficients are on."""
    scale: Scale
    rival: "EffectEstimates | None" = None
    """With a trend in the order of the boots, where that cannot be told from the changes."""

    def in_unit(self, coefficient: float, in_force: bool) -> float:
        """With against without it."""
        if in_force:
            return self.scale.back(self.level) - self.scale.back(self.level - coefficient)
        return self.scale.back(self.level + coefficient) - self.scale.back(self.level)

    def interval(self, place: int, in_force: bool) -> tuple[float, float] | None:
        """Where the effect of the change in this column lies; with a rival, where either says."""
        if self.errors is None:
            return None
        half = student_t(round(self.degrees, 2)) * float(self.errors[place])
        middle = float(self.values[place])
        ends = [self.in_unit(middle - half, in_force), self.in_unit(middle + half, in_force)]
        if self.rival is not None:
            ends += self.rival.interval(place, in_force) or ()
        return min(ends), max(ends)


def estimates_of(
    measure: Measure, groups: Sequence[tuple[State, list[Boot]]], design: Matrix, now: Matrix
) -> EffectEstimates:
    every = [boot for _, boots in groups for boot in boots]
    scale = Scale(measure, every[0].readings[measure].value)
    to_one_speed = np.exp(-_speeds(groups, measure))
    y = np.array(
        [
            scale.to(boot.readings[measure].value * float(factor))
            for boot, factor in zip(every, to_one_speed, strict=True)
        ]
    )
    weights = _weights(groups, y, design.shape[1])
    # The book's rounding is part of the spread between boots.
    grain = (scale.unit / scale.slope(float(y.mean()))) ** 2 / 12
    found = _fitted(design, y, weights, grain)
    lined = _fitted(np.column_stack((design, _places(every))), y, weights, grain)
    own = design.shape[1]

    def estimates(fitted: _Fitted, rival: EffectEstimates | None = None) -> EffectEstimates:
        values = fitted.values[:own]
        errors = fitted.errors[:own] if fitted.errors is not None else None
        return EffectEstimates(values, errors, fitted.degrees, float(now @ values), scale, rival)

    if not _has_room_for_a_line(found, lined):
        return estimates(found)
    if (lined.unit_errors[1:-1] <= IN_TURNS * found.unit_errors[1:]).all():
        return estimates(lined)
    return estimates(found, estimates(lined) if _shows_a_line(lined) else None)


@dataclass(frozen=True)
class _Fitted:
    values: Matrix
    errors: Matrix | None
    """None where so few boots tell none."""
    unit_errors: Matrix
    """Squared errors in units of one boot's."""
    degrees: float


def _fitted(design: Matrix, y: Matrix, weights: Matrix, grain: float) -> _Fitted:
    root = np.sqrt(weights)
    values, _, rank, _ = np.linalg.lstsq(design * root[:, None], y * root, rcond=NOTHING)
    degrees = float(weights.sum()) - int(rank)
    inverse = np.asarray(np.linalg.pinv((design.T * weights) @ design), np.float64)
    unit_errors = np.asarray(np.diag(inverse), np.float64)
    errors = None
    if degrees >= 1:
        rest = (y - design @ values) * root
        variance = float(rest @ rest) / degrees + grain
        errors = np.asarray(np.sqrt(variance * unit_errors), np.float64)
    return _Fitted(np.asarray(values, np.float64), errors, unit_errors, degrees)


def _places(boots: Sequence[Boot]) -> Matrix:
    """Centred rank of each boot by the time it started."""
    order = sorted(range(len(boots)), key=lambda i: (boots[i].started_at, boots[i].number))
    places = np.empty(len(boots))
    places[order] = np.arange(len(boots)) - (len(boots) - 1) / 2
    return places


def _has_room_for_a_line(plain: _Fitted, lined: _Fitted) -> bool:
    """Whether a trend can be fitted: the order of the boots is not confounded with the changes."""
    if lined.errors is None or lined.degrees < DEGREES_FOR_LINE or plain.errors is None:
        return False
    return plain.degrees - lined.degrees >= 0.5


def _shows_a_line(lined: _Fitted) -> bool:
    """By the same rule as for two states."""
    assert lined.errors is not None
    steep = abs(float(lined.values[-1]))
    return steep > student_t(round(lined.degrees, 2), SHOWN_AT) * float(lined.errors[-1])


def _speeds(groups: Sequence[tuple[State, list[Boot]]], measure: Measure) -> Matrix:
    """Adjustment of each boot for the machine's speed, on the logarithm."""
    every = [boot for _, boots in groups for boot in boots]
    names = usable([boots for _, boots in groups], measure) if measure in IN_MACHINE_TIME else ()
    if not names:
        return np.zeros(len(every))
    exponent = exponent_within([boots for _, boots in groups], measure, names)
    speeds = np.array([speed_of(boot, names) for boot in every])
    return np.asarray(exponent.value * (speeds - speeds[-1]), np.float64)


def _weights(groups: Sequence[tuple[State, list[Boot]]], y: Matrix, coefficients: int) -> Matrix:
    if len(y) < BOOTS_FOR_WEIGHTS * coefficients:
        return np.ones(len(y))
    ends = np.cumsum([len(boots) for _, boots in groups])
    parts = tuple(tuple(map(float, part)) for part in np.split(y, ends[:-1]))
    mixture = fit(parts)
    if mixture is None:
        return np.ones(len(y))
    return np.array([weight for centre in mixture.own for weight in centre.weights])
