"""Effect of every single change, from all boots of all states together.

Linear model by weighted least squares: ln(figure) = β₀ + Σ βⱼ · (change j in force), with boots
adjusted to one speed of the machine and a linear trend in their order as between two states.
Changes that were only made together are confounded: their columns have a share in the null space of
the design matrix. The best next boot is the state that minimises the sum of the effects' variances
(Atkinson and Donev, Optimum Experimental Designs, 1992).

It assumes that effects multiply: two entries that wait for the same disk save less together than
this says.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations, product

import numpy as np
from numpy.typing import NDArray

from plucky_ledger.core.book.states_compared import exponent_within, having
from plucky_ledger.core.boots.boot import Boot
from plucky_ledger.core.job.job import Job, State
from plucky_ledger.core.job.pc_states import Factor, PcStates, factors_of, states_of
from plucky_ledger.core.statistics.comparison import Scale
from plucky_ledger.core.statistics.controls import IN_MACHINE_TIME, speed_of, usable
from plucky_ledger.core.statistics.mixture import fit
from plucky_ledger.core.statistics.order import IN_TURNS, SHOWN_AT
from plucky_ledger.core.statistics.student import student_t
from plucky_ledger.core.values.estimates import Estimate
from plucky_ledger.core.values.measures import Measure

Matrix = NDArray[np.float64]
BOOTS_FOR_WEIGHTS = 4
"""Boots per coefficient from which on outlying boots get a smaller weight."""
DEGREES_FOR_LINE = 3
"""Degrees of freedom left when the effects and a trend are fitted."""
RIDGE = 1e-3
"""Ridge that makes the variance of confounded changes large but finite, when next boots are
compared."""
MOST_FACTORS_TRIED = 9
"""With more changes only states that differ in one or two of them from a measured state are
compared."""
FAR_ENOUGH = 16
"""Restarts beyond which confounded changes are not planned for."""
NOTHING = 1e-9


@dataclass(frozen=True, kw_only=True)
class Effect:
    """Effect of one change on a measure: with it against without it, where the PC is now."""

    factor: Factor
    in_force: bool
    value: float | None
    """In the measure's unit; None where it is confounded with others."""
    low: float | None
    """Of its 95 % interval; None where so few boots give none."""
    high: float | None
    boots_with: int
    boots_without: int
    tangled: tuple[int, ...]
    """Indices of the changes it is confounded with."""

    @property
    def estimate(self) -> Estimate | None:
        """The effect with its interval; None where there is none."""
        if self.value is None or self.low is None or self.high is None:
            return None
        return Estimate(self.value, self.low, self.high)


@dataclass(frozen=True)
class Effects:
    """Effects of a job's changes, and the best next boot."""

    measure: Measure
    effects: tuple[Effect, ...]
    boots: int
    next_state: State | None
    """None where there is nothing to be tried."""
    restarts_left: int | None
    """Restarts until no changes are confounded; None where no reasonable number would do."""


def effects_of(job: Job, measure: Measure) -> Effects:
    """The effect of every change that was ever made on a job's PC."""
    states = states_of(job)
    factors = factors_of(job)
    groups = _measured(job, states, measure)
    now = states.now(job)
    if not groups or not factors:
        return Effects(measure, (), sum(len(boots) for _, boots in groups), None, None)
    design = _design([state for state, boots in groups for _ in boots], factors)
    tangles = _tangles(design)
    estimates = _estimates(measure, groups, design, _row(now, factors))
    effects = tuple(
        _effect(place, factor, factor.key in now, design, tangles[place], estimates)
        for place, factor in enumerate(factors)
    )
    next_row = _next_row(design, factors, [state for state, _ in groups])
    return Effects(
        measure,
        effects,
        len(design),
        _state(next_row, factors) if next_row is not None else None,
        _restarts_left(design, factors, [state for state, _ in groups]),
    )


def _measured(job: Job, states: PcStates, measure: Measure) -> list[tuple[State, list[Boot]]]:
    """Each state once with its boots; censored boots are left out."""
    groups: dict[State, list[Boot]] = {}
    for index, state in enumerate(states.of_round):
        if state not in groups:
            boots = having(states.boots(job, index), measure)
            groups[state] = [boot for boot in boots if not boot.readings[measure].censored]
    return [(state, boots) for state, boots in groups.items() if boots]


def _row(state: State, factors: Sequence[Factor]) -> Matrix:
    return np.array([1.0, *(float(factor.key in state) for factor in factors)])


def _design(of_boots: Sequence[State], factors: Sequence[Factor]) -> Matrix:
    return np.array([_row(state, factors) for state in of_boots])


def _state(row: Matrix, factors: Sequence[Factor]) -> State:
    return frozenset(f.key for f, in_force in zip(factors, row[1:], strict=True) if in_force)


def _tangles(design: Matrix) -> list[tuple[int, ...]]:
    """For each change those it is confounded with, itself included; empty where estimable."""
    _, singular, rows = np.linalg.svd(design, full_matrices=True)
    rank = int((singular > NOTHING * singular[0]).sum())
    null = rows[rank:].T
    together = np.abs(null @ null.T)[1:, 1:] > 1e-6
    tangles = []
    for place in range(design.shape[1] - 1):
        group, grown = {place} if together[place, place] else set(), True
        while grown:
            more = {int(other) for one in group for other in np.flatnonzero(together[one])}
            grown = not more <= group
            group |= more
        tangles.append(tuple(sorted(group)))
    return tangles


@dataclass(frozen=True)
class _Estimates:
    """Coefficients with their standard errors, and the scale they are on."""

    values: Matrix
    """One for each column of the design."""
    errors: Matrix | None
    degrees: float
    level: float
    """Where the PC is now, on the scale the coefficients are on."""
    scale: Scale
    rival: "_Estimates | None" = None
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


def _estimates(
    measure: Measure, groups: Sequence[tuple[State, list[Boot]]], design: Matrix, now: Matrix
) -> _Estimates:
    every = [boot for _, boots in groups for boot in boots]
    scale = Scale(measure, every[0].readings[measure].value)
    speeds = _speeds(groups, measure)
    y = np.array([scale.to(b.readings[measure].value) for b in every]) - speeds
    weights = _weights(groups, y, design.shape[1])
    # The book's rounding is part of the spread between boots.
    grain = (scale.unit / scale.slope(float(y.mean()))) ** 2 / 12
    found = _fitted(design, y, weights, grain)
    lined = _fitted(np.column_stack((design, _places(every))), y, weights, grain)
    own = design.shape[1]

    def estimates(fitted: _Fitted, rival: _Estimates | None = None) -> _Estimates:
        values = fitted.values[:own]
        errors = fitted.errors[:own] if fitted.errors is not None else None
        return _Estimates(values, errors, fitted.degrees, float(now @ values), scale, rival)

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


def _effect(
    place: int,
    factor: Factor,
    in_force: bool,
    design: Matrix,
    tangled: tuple[int, ...],
    found: _Estimates,
) -> Effect:
    together = tuple(other for other in tangled if other != place)
    boots_with = int(design[:, place + 1].sum())
    value = low = high = None
    if not tangled:
        coefficient = float(found.values[place + 1])
        value = found.in_unit(coefficient, in_force)
        low, high = found.interval(place + 1, in_force) or (None, None)
    return Effect(
        factor=factor,
        in_force=in_force,
        value=value,
        low=low,
        high=high,
        boots_with=boots_with,
        boots_without=len(design) - boots_with,
        tangled=together,
    )


def _cost(design: Matrix) -> float:
    """Sum of the effects' variances, in units of one boot's."""
    inside = design.T @ design + RIDGE * np.eye(design.shape[1])
    return float(np.trace(np.linalg.inv(inside)[1:, 1:]))


def _next_row(
    design: Matrix, factors: Sequence[Factor], measured: Sequence[State]
) -> Matrix | None:
    """The state whose boot minimises the effects' variances."""
    rows = [_row(state, factors) for state in _tried(factors, measured)]
    return min(rows, key=lambda row: _cost(np.vstack([design, row])), default=None)


def _tried(factors: Sequence[Factor], measured: Sequence[State]) -> list[State]:
    """States that can be made: what happened elsewhere stays, an entry has one setting."""
    movable = [factor for factor in factors if factor.change is not None]
    fixed = measured[-1] - {factor.key for factor in movable}
    if len(movable) <= MOST_FACTORS_TRIED:
        choices = [
            frozenset(f.key for f, on in zip(movable, bits, strict=True) if on) | fixed
            for bits in product((False, True), repeat=len(movable))
        ]
    else:
        flips = [(), *combinations(movable, 1), *combinations(movable, 2)]
        choices = [
            (state ^ frozenset(factor.key for factor in flip))
            for state in measured
            for flip in flips
        ]
    return [state for state in choices if _is_possible(state, movable)]


def _is_possible(state: State, factors: Sequence[Factor]) -> bool:
    entries = [
        factor.change.entry_id
        for factor in factors
        if factor.key in state and factor.change is not None and factor.change.entry_id
    ]
    return len(entries) == len(set(entries))


def _restarts_left(
    design: Matrix, factors: Sequence[Factor], measured: Sequence[State]
) -> int | None:
    for left in range(FAR_ENOUGH):
        if not any(_tangles(design)):
            return left
        row = _next_row(design, factors, measured)
        if row is None:
            return None
        design = np.vstack([design, row])
    return None
