"""The parts of simulated boots while they are advanced: how fast each goes, and what it uses."""

from dataclasses import dataclass

import numpy as np

from plucky_ledger.core.boots.samples import Indices
from plucky_ledger.core.replay.task_tables import Singles


@dataclass(frozen=True, eq=False)
class ByReplica:
    """Whose some parts are that lie in the order of their replicas."""

    parts: Indices
    """How many each replica has; shape ``(replicas,)``."""
    some: Indices
    """The replicas that have any."""
    first: Indices
    """The place of the first part of each of those."""

    @classmethod
    def of(cls, which: Indices, bounds: Indices) -> "ByReplica":
        """Whose these parts are; ``bounds`` is the first part that each replica could have, and one
        behind the last.
        """
        places = np.searchsorted(which, bounds)
        parts = np.diff(places)
        some = np.flatnonzero(parts)
        return cls(parts, some, places[some])

    def spread(self, values: Singles) -> Singles:
        """What each part has of its replica's; shapes ``(..., replicas)``, ``(..., parts)``."""
        return values.repeat(self.parts, axis=-1)

    def summed(self, amounts: Singles) -> Singles:
        """Sums over the parts of each replica; shapes ``(kinds, parts)``, ``(kinds, replicas)``."""
        if self.some.size == self.parts.size:
            return np.add.reduceat(amounts, self.first, axis=1)
        sums = np.zeros((len(amounts), self.parts.size), dtype=np.float32)
        if self.some.size:
            sums[:, self.some] = np.add.reduceat(amounts, self.first, axis=1)
        return sums


@dataclass(kw_only=True, eq=False)
class Heavy:
    """The parts that are advanced step by step; shapes ``(parts,)``."""

    which: Indices
    by_replica: ByReplica
    first_row: Indices
    length: Singles
    up_after: Singles
    """Infinite where they are up already."""
    turns_per_work: Singles
    seek_discount: Singles
    release: Singles
    progress: Singles
    speed: Singles
    exclusivity: Singles


@dataclass(frozen=True, kw_only=True, eq=False)
class Pace:
    """What some parts do in each second of their own time; shapes ``(parts,)``."""

    waiting: Singles
    computing: Singles
    alone: Singles
    """Share spent moving data while it is alone with the drive."""
    in_turn: Singles
    """The same as it is served in turn with others, without their slowing it down."""
    work: Singles
    """CPU work, disk work, and disk work in the drive's turns, which are of equal size for all;
    shape ``(3, parts)``."""

    def speed(self, slow: Singles) -> Singles:
        """Own seconds per second (0 to 1) at each part's slowdowns of cores and drive, shape
        ``(2, parts)``.
        """
        seconds = np.maximum(self.alone, self.in_turn * slow[1])
        seconds += self.computing * slow[0]
        seconds += self.waiting
        return np.asarray(np.reciprocal(seconds, out=seconds))


def pace_of(rates: Singles, saved: Singles, turns_per_work: Singles) -> Pace:
    """The pace of some parts from their rates, shape ``(parts, 4)``; ``saved`` is the share of its
    disk work that each saves by having the drive to itself.

    The drive serves tasks in turn, some bytes each: a task with costly data is slowed down less by
    others than one with cheap data, and no task is faster than alone.
    """
    columns = np.empty((5, len(rates)), dtype=np.float32)
    columns[:4] = rates.T
    computing, moving, _, disk_work, turns = columns
    np.multiply(disk_work, turns_per_work, out=turns)
    price = 1 - saved
    disk_work *= price
    return Pace(
        waiting=1 - computing - moving,
        computing=computing,
        alone=moving * price,
        in_turn=moving * turns_per_work,
        work=columns[2:],
    )
