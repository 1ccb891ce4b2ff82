"""Sequential design of experiments: the next state of the PC to measure.

It minimises the sum of the effects' variances (A-optimality: Atkinson and Donev, Optimum
Experimental Designs, 1992), with a linear trend in the order of the boots among the unknowns, so
that drift of the host is not mistaken for an effect. An effect that is known precisely enough has
little weight from then on: the remaining boots go to the others.
"""

from collections.abc import Sequence
from itertools import product

import numpy as np
from numpy.typing import NDArray

from plucky_ledger.core.values.estimates import Estimate

RIDGE = 1e-3
ENOUGH_SECONDS = 0.5
ENOUGH_SHARE = 0.15
"""An effect is precise enough when its interval reaches no further to either side than this, or
than this share of it."""
BOOTS_BEYOND = 4
"""Boots, beyond two for each effect, before any counts as precise: a few boots agree by chance."""
KNOWN = 0.02
"""Weight of the variance of an effect that is precise enough."""
Matrix = NDArray[np.float64]


def night_series(factors: int, boots: int) -> tuple[frozenset[int], ...]:
    """Factors switched off in each boot so far; the first boot is the PC as it is."""
    series: list[frozenset[int]] = []
    for _ in range(boots):
        series.append(_best_next(series, np.ones(factors)))
    return tuple(series)


def next_of_night(
    done: Sequence[frozenset[int]], effects: Sequence[Estimate | None]
) -> frozenset[int] | None:
    """The state to measure next.

    ``effects`` are in seconds, by the factor's index; None where one is not estimable yet. Returns
    None where every effect is precise enough.
    """
    enough = len(done) >= 2 * len(effects) + BOOTS_BEYOND
    exact = [enough and effect is not None and _is_exact(effect) for effect in effects]
    return None if all(exact) else _best_next(done, np.where(exact, KNOWN, 1.0))


def _is_exact(effect: Estimate) -> bool:
    reach = max(effect.high - effect.value, effect.value - effect.low)
    return reach <= max(ENOUGH_SECONDS, ENOUGH_SHARE * abs(effect.value))


def _best_next(done: Sequence[frozenset[int]], weights: Matrix) -> frozenset[int]:
    factors = len(weights)
    if not done:
        return frozenset()
    rows = np.array([_row(state, factors, place) for place, state in enumerate(done)])
    states = [
        frozenset(i for i, switched in enumerate(bits) if switched)
        for bits in product((False, True), repeat=factors)
    ]
    # Among equally good states the one with fewer factors to switch.
    return min(
        states,
        key=lambda state: (
            round(_cost(np.vstack([rows, _row(state, factors, len(done))]), weights), 9),
            len(state ^ done[-1]),
        ),
    )


def _row(state: frozenset[int], factors: int, place: int) -> Matrix:
    switched = [float(index in state) for index in range(factors)]
    return np.array([1.0, *switched, place / 10.0])


def _cost(design: Matrix, weights: Matrix) -> float:
    inside = design.T @ design + RIDGE * np.eye(design.shape[1])
    errors = np.diag(np.linalg.inv(inside))[1 : len(weights) + 1]
    return float(errors @ weights)
