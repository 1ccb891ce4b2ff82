"""The parts of simulated boots while they are advanced: how fast each goes, and what it uses."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from plucky_ledger.core.boots.samples import Floats
from plucky_ledger.core.replay.task_tables import Bools, Indices


@dataclass(frozen=True, eq=False)
class ByReplica:
    """Whose some parts are that lie in the order of their replicas."""

    parts: Indices
    """How many each replica has; shape ``(replicas,)``."""

    def spread(self, values: Floats) -> Floats:
        """What each part has of its replica's; shapes ``(..., replicas)``, ``(..., parts)``."""
        return np.repeat(values, self.parts, axis=-1)

    def summed(self, amounts: Floats) -> Floats:
        """Sums over the parts of each replica; shapes ``(kinds, parts)``, ``(kinds, replicas)``."""
        sums = np.zeros((len(amounts), self.parts.size))
        some, first = self._first
        if some.size:
            sums[:, some] = np.add.reduceat(amounts, first, axis=1)
        return sums

    @cached_property
    def _first(self) -> tuple[Indices, Indices]:
        """The replicas that have any part, and the place of the first part of each."""
        some = np.flatnonzero(self.parts)
        return some, (np.cumsum(self.parts) - self.parts)[some]


@dataclass(kw_only=True, eq=False)
class Heavy:
    """The parts that are advanced step by step; shapes ``(parts,)``."""

    which: Indices
    by_replica: ByReplica
    first_row: Floats
    length: Floats
    up_after: Floats
    relative_io_cost: Floats
    seek_discount: Floats
    release: Floats
    up: Bools
    progress: Floats
    speed: Floats
    exclusivity: Floats


@dataclass(frozen=True, kw_only=True, eq=False)
class Pace:
    """What some parts do in each second of their own time; shapes ``(parts,)``."""

    waiting: Floats
    computing: Floats
    alone: Floats
    """Share spent moving data while it is alone with the drive."""
    in_turn: Floats
    """The same as it is served in turn with others, without their slowing it down."""
    work: Floats
    """CPU work, disk work, and disk work in the drive's turns, which are of equal size for all;
    shape ``(3, parts)``."""

    def speed(self, slow: Floats) -> Floats:
        """Own seconds per second (0 to 1) at each part's slowdowns of cores and drive, shape
        ``(2, parts)``.
        """
        moving = np.maximum(self.alone, self.in_turn * slow[1])
        return np.asarray(1 / (self.waiting + self.computing * slow[0] + moving))


def pace_of(rates: Floats, saved: Floats, relative_io_cost: Floats) -> Pace:
    """The pace of some parts from their rates, shape ``(parts, 4)``; ``saved`` is the share of its
    disk work that each saves by having the drive to itself.

    The drive serves tasks in turn, some bytes each: a task with costly data is slowed down less by
    others than one with cheap data, and no task is faster than alone.
    """
    computing, cpu_work, moving, disk_work = np.ascontiguousarray(rates.T)
    price = 1 - saved
    return Pace(
        waiting=1 - computing - moving,
        computing=computing,
        alone=moving * price,
        in_turn=moving / relative_io_cost,
        work=np.array((cpu_work, disk_work * price, disk_work / relative_io_cost)),
    )
