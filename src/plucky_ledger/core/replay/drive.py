"""What moving data costs on a drive: relative to the average byte, and alone with it."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

Real = TypeVar("Real", np.float32, np.float64)
MOST_DISCOUNT = 0.85
"""Upper bound of the seek discount: the largest share of its disk time that a task saves when it
has the drive to itself."""


@dataclass(frozen=True)
class DiskCosts:
    """What moving a byte costs on one drive, relative to the average byte."""

    relative_io_cost: Mapping[str, float]
    """By task, while others use the drive as well: scattered data costs more than 1. A ratio."""
    seek_cost: float = 0.0
    """Seek cost, in the same unit: the part of a byte's cost that is seeking from one task's data
    to another's. A task that has the drive to itself saves it."""

    def of(self, name: str) -> float:
        """Relative I/O cost of a task's data."""
        return self.relative_io_cost.get(name, 1.0)

    def seek_discount(self, name: str) -> float:
        """Share (0 to 1) of a task's disk time that it saves when it has the drive to itself."""
        return min(MOST_DISCOUNT, self.seek_cost / self.of(name))


def exclusivity(share: NDArray[Real]) -> NDArray[Real]:
    """How exclusively the drive serves a task that moves this share (0 to 1) of a moment's data.

    0 for a share of a half or less, 1 for the whole. A drive serves two tasks in turn, and seeks
    for each turn: of the larger one's requests only as many are interrupted as the smaller one has,
    so that (1 - share) / share of its seeks stay and the rest are saved. The share is of bytes, in
    any shape; for requests of very unequal size it is too optimistic.
    """
    return np.asarray(np.maximum(2 - 1 / np.maximum(share, 1e-9), 0.0))
