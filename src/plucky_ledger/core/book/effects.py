"""Effect of every single change, from all boots of all states together.

Linear model by weighted least squares: ln(figure) = β₀ + Σ βⱼ · (change j in force), with boots
adjusted to one speed of the machine and a linear trend in their order as between two states.
Changes that were only made together are confounded: their columns have a share in the null space of
the design matrix. The best next boot is the state that minimises the sum of the effects' variances
(Atkinson and Donev, Optimum Experimental Designs, 1992).

It assumes that effects multiply: two entries that wait for the same disk save less together than
this says.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations, product

import numpy as np

from plucky_ledger.core.book.effects_fit import NOTHING, EffectEstimates, Matrix, estimates_of
from plucky_ledger.core.book.states_compared import having
from plucky_ledger.core.boots.boot import Boot
from plucky_ledger.core.entries.states import NOT_STARTED
from plucky_ledger.core.job.job import Job, State
from plucky_ledger.core.job.pc_states import Factor, PcStates, factors_of, states_of
from plucky_ledger.core.values.estimates import Estimate
from plucky_ledger.core.values.measures import Measure

RIDGE = 1e-3
"""Ridge that makes the variance of confounded changes large but finite, when next boots are
compared."""
MOST_FACTORS_TRIED = 9
"""With more changes only states that differ in one or two of them from a measured state are
compared."""
FAR_ENOUGH = 16
"""Restarts beyond which confounded changes are not planned for."""


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
    factors, standing_for = _each_entry_once(factors_of(job))
    states = _with_each_entry_once(states_of(job), standing_for)
    groups = _measured(job, states, measure)
    now = states.now(job)
    if not groups or not factors:
        return Effects(measure, (), sum(len(boots) for _, boots in groups), None, None)
    design = _design([state for state, boots in groups for _ in boots], factors)
    tangles = _tangles(design)
    estimates = estimates_of(measure, groups, design, _row(now, factors))
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


def _each_entry_once(
    factors: Sequence[Factor],
) -> tuple[list[Factor], dict[tuple[str, ...], tuple[str, ...]]]:
    """Two ways of switching the same entry off are one change to be told apart from others: the
    newest stands for all. Returns the factors, and by which key each of the others is known.
    """
    newest = {_off_entry(factor): factor for factor in factors if _off_entry(factor)}
    stand_in = {factor.key: newest[entry] for factor in factors if (entry := _off_entry(factor))}
    once = dict.fromkeys(stand_in.get(factor.key, factor) for factor in factors)
    return list(once), {key: factor.key for key, factor in stand_in.items()}


def _off_entry(factor: Factor) -> str:
    """The entry that it switches off; empty where it does something else."""
    change = factor.change
    off = change is not None and change.new_state in NOT_STARTED
    return change.entry_id if off and change is not None else ""


def _with_each_entry_once(
    states: PcStates, standing_for: Mapping[tuple[str, ...], tuple[str, ...]]
) -> PcStates:
    return PcStates(
        tuple(frozenset(standing_for.get(key, key) for key in state) for state in states.of_round)
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


def _effect(
    place: int,
    factor: Factor,
    in_force: bool,
    design: Matrix,
    tangled: tuple[int, ...],
    found: EffectEstimates,
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
