"""The series of states that a night shift goes through: as exact as so many boots can be.

Each next state is the one that makes the sum of the effects' squared errors smallest, a straight
line in the order of the boots included, so that a host that drifts decides nothing (Atkinson and
Donev, Optimum Experimental Designs, 1992). What is won does not depend on what the boots will show.
"""

from itertools import product

import numpy as np
from numpy.typing import NDArray

RIDGE = 1e-3
Matrix = NDArray[np.float64]


def night_series(factors: int, boots: int) -> tuple[frozenset[int], ...]:
    """The factors that are off in each boot; the first is as the PC is."""
    states = [frozenset(i for i, on in enumerate(bits) if on)
              for bits in product((False, True), repeat=factors)]  # fmt: skip
    series = [states[0]]
    rows = _row(states[0], factors, 0)[None, :]
    for place in range(1, boots):
        # Of states that win as much, the one with fewer to switch.
        chosen = min(
            states,
            key=lambda state: (
                round(_cost(np.vstack([rows, _row(state, factors, place)]), factors), 9),
                len(state ^ series[-1]),
            ),
        )
        series.append(chosen)
        rows = np.vstack([rows, _row(chosen, factors, place)])
    return tuple(series)


def _row(state: frozenset[int], factors: int, place: int) -> Matrix:
    off = [float(index in state) for index in range(factors)]
    return np.array([1.0, *off, place / 10.0])


def _cost(design: Matrix, factors: int) -> float:
    inside = design.T @ design + RIDGE * np.eye(design.shape[1])
    return float(np.trace(np.linalg.inv(inside)[1 : factors + 1, 1 : factors + 1]))
