"""What went on in each stretch between two samples, by task, and what made it slow.

Where cores or the disk were taken up, the same work took longer than it would have alone: how much
longer is worked out per stretch from who got how much of them.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from plucky_ledger.core.boots.analysis import Analysis
from plucky_ledger.core.boots.attribution import (
    Owner,
    OwnerKind,
    fitted,
    grown,
    over_time,
    run_work,
)
from plucky_ledger.core.boots.samples import Floats, Samples, thinned
from plucky_ledger.core.boots.settle import Bools
from plucky_ledger.core.boots.timeline import Timeline
from plucky_ledger.core.values.trouble import Refused, TroubleCode

SATURATED = 0.9
"""Share of the cores or of the disk from which tasks are taken to have waited for it."""
MOST_SPARED = 0.85
"""Largest share of its disk time that a task may be spared by being alone."""
PULL_SECONDS = 0.3
"""How strongly a task's dearness is pulled towards the average: like this much disk time."""
QUEUE_SECONDS = 0.25
"""How far around a stretch the counts of waiting threads are taken to be its own."""
LEAST_WORK_SECONDS = 0.005
"""CPU seconds in a stretch below which a wait says nothing about how it was held up."""
MOST_HELD_UP = 50.0
SYSTEM_TASK = ""
"""Entry id of work that no entry did."""
SET_ASIDE_TASK = "set aside"
"""What programs that were set aside did, where the drive's time is shared out."""


@dataclass(frozen=True)
class DiskCosts:
    """What moving data cost on one drive, relative to the average byte."""

    relative_io_cost: Mapping[str, float]
    """Of each task's data while others use the drive too: scattered data is dearer."""
    turning: float = 0.0
    """How much of it is the price of turning from one to the other; saved by who is alone."""

    def of(self, name: str) -> float:
        """Dearness of a task's data."""
        return self.relative_io_cost.get(name, 1.0)

    def seek_discount(self, name: str) -> float:
        """Share of a task's disk time that it is spared when it has the drive to itself."""
        return min(MOST_SPARED, self.turning / self.of(name))


@dataclass(frozen=True, eq=False)
class Stretches:
    """What a task did in each stretch between two samples, in its own time. Seconds."""

    computing: Floats
    cpu_work: Floats
    """CPU seconds of all its threads."""
    moving: Floats
    """Moving data."""
    disk_work: Floats
    """The drive busy for it, as if others used it all along."""
    waiting: Floats

    @property
    def edges(self) -> Floats:
        """Own time at the edges of the stretches, from 0."""
        own = self.computing + self.moving + self.waiting
        return np.concatenate(([0.0], np.cumsum(own)))


class Contention:
    """What was going on in each stretch between two samples, by owner.

    Arrays have shape ``(stretches,)`` or ``(runs, stretches)``.
    """

    def __init__(
        self,
        timeline: Timeline,
        samples: Samples,
        owners: Mapping[int, Owner],
        costs: DiskCosts,
    ) -> None:
        self.start, self.end = samples.seconds[:-1], samples.seconds[1:]
        self.width = np.diff(samples.seconds)
        cpu, read = run_work(timeline.runs, samples)
        cpu = fitted(cpu, grown(samples.cpu_seconds))
        self.first_cpu = cpu[:, 0]
        self.cpu, moved = np.diff(cpu, axis=1), np.diff(read, axis=1)
        moved = moved + np.diff(_written(timeline, samples), axis=1)
        self.rows: dict[str, list[int]] = {}
        for row, run in enumerate(timeline.runs):
            owner = owners[run.run]
            if owner.kind is not OwnerKind.ASIDE:
                self.rows.setdefault(_task_name(owner), []).append(row)
        left = [row for rows in self.rows.values() for row in rows]
        total = np.maximum(np.diff(samples.cpu_seconds), 0.0)
        self.unclaimed_cpu = np.maximum(total - self.cpu.sum(axis=0), 0.0)
        self.busy = np.clip(np.diff(samples.disk_busy_seconds), 0.0, self.width)
        bytes_moved = np.maximum(
            np.diff(samples.disk_read_bytes) + np.diff(samples.disk_written_bytes), 0.0
        )
        self.moved = moved
        self.costs = costs
        dear = np.ones(len(timeline.runs))
        for name, rows in self.rows.items():
            dear[rows] = costs.of(name)
        nobodys = bytes_moved - (moved[left].sum(axis=0) if left else 0.0)
        self.nobodys = np.maximum(nobodys, 0.0)
        # The drive's time goes by the bytes and how dear they are; nobody's bytes are the system's.
        weight = moved * dear[:, None]
        everything = np.maximum(weight[left].sum(axis=0) + self.nobodys, 1.0)
        self.disk = self.busy * weight / everything
        self.unclaimed_disk = self.busy * self.nobodys / everything
        self.cores = samples.cores
        self.cpu_slow = self._cpu_slowness(total, _queue(timeline.samples, "runnable", samples))
        self.queued = np.diff(_queued(timeline, samples), axis=1)
        own = [over_time(run, run.cpu_seconds, samples.seconds) for run in timeline.runs]
        self.own = np.diff(np.array(own), axis=1)
        """CPU seconds of each run's own threads, those of ended children left out."""
        self.disk_wait = self._disk_wait(_queue(timeline.samples, "blocked", samples))

    def _cpu_slowness(self, total: Floats, queue: Floats | None) -> Floats:
        """How many times longer computing took for want of cores, per stretch; 1 where they idled.

        Cores are shared evenly among the threads that compute. Where the recording did not count
        them, the typical rate at which CPU work was done is what one of them got of a core.
        """
        saturated = total >= SATURATED * self.cores * self.width
        if queue is not None:
            return np.where(saturated, np.maximum(1.0, queue / self.cores), 1.0)
        rate = np.minimum(self.cpu / self.width, 1.0)
        got = _weighted_median(rate, self.cpu)
        return np.where(saturated & (got > 0), np.maximum(1.0, 1 / np.maximum(got, 1e-3)), 1.0)

    def _disk_wait(self, queue: Floats | None) -> Floats:
        """How long moving one byte took where the drive was taken up, else 0, per stretch.

        The drive serves all that wait in turn, some bytes each. Where the recording did not count
        them, who got most of it is taken to have waited all the time.
        """
        saturated = self.busy >= SATURATED * self.width
        most = self.moved.max(axis=0, initial=0.0)
        if queue is not None:
            everything = self.moved.sum(axis=0) + self.nobodys
            most = everything / np.maximum(queue, 1.0)
        return np.where(saturated & (most > 0), self.width / np.maximum(most, 1.0), 0.0)

    def _shared_price(self, name: str, moved: Floats, disk: Floats) -> Floats:
        """Disk time a task's data would have taken with others at the drive all along."""
        everything = np.maximum(self.moved.sum(axis=0) + self.nobodys, 1.0)
        return disk / (1 - self.costs.seek_discount(name) * exclusivity(moved / everything))

    def own_time(self, rows: Sequence[int], width: Floats, name: str) -> Stretches:
        """What some runs of a task did, of each stretch only the last ``width`` seconds."""
        cpu, moved = self.cpu[rows], self.moved[rows].sum(axis=0)
        disk = self.disk[rows].sum(axis=0)
        # Runs side by side compute at once; the busiest decides how long it takes. One run with
        # several threads that had more than one core had them at once, too.
        longest = cpu.max(axis=0, initial=0.0)
        slow = self.slowness_of(rows, longest)
        return self._split(longest, cpu.sum(axis=0), moved, disk, width, name, slow)

    def own_time_of_system(self, here: Bools) -> Stretches:
        """What no entry did, in the stretches chosen."""
        rows = self.rows.get(SYSTEM_TASK, [])
        work = self.cpu[rows].sum(axis=0) + self.unclaimed_cpu
        moved = self.moved[rows].sum(axis=0) + self.nobodys
        disk = self.disk[rows].sum(axis=0) + self.unclaimed_disk
        longest = self.cpu[rows].max(axis=0, initial=0.0)
        width = self.width * here
        return self._split(
            longest * here,
            work * here,
            moved * here,
            disk * here,
            width,
            SYSTEM_TASK,
            self.slowness_of(rows, longest),
        )

    def slowness_of(self, rows: Sequence[int], longest: Floats) -> Floats:
        """How many times longer computing took the busiest of some runs for want of cores.

        Where the kernel told how long it waited for one, by that; else as for everybody.
        """
        if not len(rows):
            return self.cpu_slow
        busiest = self.cpu[rows].argmax(axis=0)
        at = np.arange(len(longest))
        waited, own = self.queued[rows][busiest, at], self.own[rows][busiest, at]
        # Of work that its children did nobody knows how long they waited.
        told = np.isfinite(waited) & (own > np.maximum(LEAST_WORK_SECONDS, longest / 2))
        ratio = 1 + np.maximum(np.where(told, waited, 0.0), 0.0) / np.maximum(own, 1e-9)
        return np.where(told, np.minimum(ratio, MOST_HELD_UP), self.cpu_slow)

    def _split(
        self,
        longest: Floats,
        work: Floats,
        moved: Floats,
        disk: Floats,
        width: Floats,
        name: str,
        slow: Floats,
    ) -> Stretches:
        """Split stretches by how long computing and moving data took in them."""
        computing = np.minimum(longest * slow, width)
        moving = np.maximum(moved * self.disk_wait, disk)
        price = self._shared_price(name, moved, disk)
        took = computing + moving
        # More than there was time for: it computed and moved data at once.
        fits = np.where(took > width, width / np.maximum(took, 1e-9), 1.0)
        return Stretches(
            computing=computing * fits / slow,
            cpu_work=work,
            moving=np.where(moving > 0, price, 0.0) * fits,
            disk_work=price,
            waiting=np.maximum(width - took * fits, 0.0),
        )


def _queue(whole: Samples | None, name: str, samples: Samples) -> Floats | None:
    """Mean length of a queue in each stretch, from counts at single instants around it."""
    counts = getattr(whole, name) if whole is not None else None
    if whole is None or counts is None:
        return None
    seconds = whole.seconds
    even = np.concatenate(([0.0], np.cumsum(np.diff(seconds) * (counts[1:] + counts[:-1]) / 2)))
    start = np.maximum(samples.seconds[:-1] - QUEUE_SECONDS, seconds[0])
    end = np.minimum(samples.seconds[1:] + QUEUE_SECONDS, seconds[-1])
    area = np.interp(end, seconds, even) - np.interp(start, seconds, even)
    return np.asarray(area / np.maximum(end - start, 1e-9))


def _queued(timeline: Timeline, samples: Samples) -> Floats:
    """How long each run had waited for a core at each sample, shape ``(runs, samples)``; NaN where
    the kernel does not tell.
    """
    return np.array(
        [
            over_time(run, run.queued_seconds, samples.seconds)
            if len(run.queued_seconds) and not np.isnan(run.queued_seconds).all()
            else np.full(len(samples), np.nan)
            for run in timeline.runs
        ]
    )


def _written(timeline: Timeline, samples: Samples) -> Floats:
    """Bytes written by each run at each sample, shape ``(runs, samples)``."""
    return np.array(
        [over_time(run, np.nan_to_num(run.bytes_written), samples.seconds) for run in timeline.runs]
    )


def _task_name(owner: Owner) -> str:
    return owner.entry_id if owner.kind is OwnerKind.ENTRY else SYSTEM_TASK


def exclusivity(share: Floats) -> Floats:
    """How exclusively the drive serves a task that moves this share (0 to 1) of a moment's data.

    0 for a share of a half or less, 1 for the whole. A drive serves two tasks in turn, and seeks
    for each turn: of the larger one's requests only as many are interrupted as the smaller one has,
    so that (1 - share) / share of its seeks stay and the rest are saved. The share is of bytes, in
    any shape; for requests of very unequal size it is too optimistic.
    """
    return np.maximum(1 - (1 - share) / np.maximum(share, 1e-9), 0.0)


def _set_aside(timeline: Timeline, owners: Mapping[int, Owner]) -> list[int]:
    """Which runs, by their place, somebody set aside: the recorder's own are not among them."""
    return [
        row
        for row, run in enumerate(timeline.runs)
        if owners[run.run].kind is OwnerKind.ASIDE and not run.own
    ]


def _weighted_median(values: Floats, weights: Floats) -> Floats:
    """Down the columns; 0 where all weights are."""
    order = np.argsort(values, axis=0)
    values = np.take_along_axis(values, order, axis=0)
    summed = np.cumsum(np.take_along_axis(weights, order, axis=0), axis=0)
    half = summed[-1] / 2
    index = (summed >= half).argmax(axis=0)
    return np.where(summed[-1] > 0, values[index, np.arange(values.shape[1])], 0.0)


def disk_costs(boots: Sequence[Analysis]) -> DiskCosts:
    """What moving data cost whom, over the boots of a round.

    Non-negative least squares of the drive's busy time on what each task moved per stretch (Lawson
    and Hanson, 1974), with a discount for who was alone, pulled towards the average: who moved
    little is not called dear. What the programs set aside kept the drive busy with is told apart:
    it is charged to nobody.
    """
    names: dict[str, int] = {}
    parts = []
    for analysis in boots:
        timeline, attribution = analysis.timeline, analysis.attribution
        if timeline.samples is None or attribution is None or len(timeline.samples) < 3:
            continue
        owners = attribution.owners
        contention = Contention(timeline, thinned(timeline.samples, 0.5), owners, DiskCosts({}))
        rate = contention.busy.sum() / max(contention.moved.sum(), 1.0)
        tasks = {**contention.rows, SET_ASIDE_TASK: _set_aside(timeline, owners)}
        part = {
            name: contention.moved[rows].sum(axis=0) * rate for name, rows in tasks.items() if rows
        }
        for name in part:
            names.setdefault(name, len(names))
        parts.append((contention.busy, part))
    if not parts:
        return DiskCosts({})
    try:
        from scipy.optimize import nnls
    except ImportError as error:
        raise Refused(TroubleCode.PACKAGE_MISSING, package="scipy", extra="numerics") from error
    busy = np.concatenate([busy for busy, _ in parts])
    moved = np.zeros((len(busy), len(names) + 1))
    at = 0
    for stretch_busy, part in parts:
        for name, column in part.items():
            moved[at : at + len(stretch_busy), names[name]] = column
        at += len(stretch_busy)
    share = moved / np.maximum(moved.sum(axis=1, keepdims=True), 1e-9)
    moved[:, -1] = -(moved * exclusivity(share)).sum(axis=1)
    pull = np.diag(np.full(len(names) + 1, PULL_SECONDS))[:-1]
    wanted = np.concatenate((busy, np.full(len(names), PULL_SECONDS)))
    solved, _ = nnls(np.vstack((moved, pull)), wanted)
    relative_io_cost = {
        name: float(np.clip(solved[index], 0.2, 8.0)) for name, index in names.items()
    }
    return DiskCosts(relative_io_cost, float(solved[-1]))
