"""Resource contention in one boot: what each task used between two samples, and how much it was
slowed.

Where the cores or the disk were saturated, the same work took longer than it would have alone. By
how much is estimated for each interval between two samples from the lengths of the queues, or where
those were not recorded from the shares of the tasks.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from statistics import median

import numpy as np

from plucky_ledger.core.boots.attribution import (
    Owner,
    OwnerKind,
    fitted,
    grown,
    run_work,
)
from plucky_ledger.core.boots.grid import ReadingsGrid
from plucky_ledger.core.boots.samples import Bools, Floats, Indices, Samples
from plucky_ledger.core.boots.timeline import Timeline
from plucky_ledger.core.boots.unlisted import unlisted_services
from plucky_ledger.core.replay.drive import DiskCosts, exclusivity
from plucky_ledger.core.replay.workload import SYSTEM_TASK

SATURATED = 0.9
"""Utilisation of the cores or of the disk (0 to 1) from which tasks are taken to have queued for
it."""
QUEUE_SECONDS = 0.25
"""Run queues are counted at single instants: counts this far around an interval are averaged."""
LEAST_WORK_SECONDS = 0.005
"""CPU seconds of a run in an interval below which its waiting time says nothing of its slowdown."""
MOST_SLOWDOWN = 50.0
STARVED = 0.8
"""Share of its cores from which on a PC is taken to have them all."""
LEAST_CAPACITY = 0.05
LEAST_QUEUED_SECONDS = 3.0
"""For so long programs have to wait for cores before it is known how much there was of them."""


@dataclass(frozen=True, eq=False)
class Stretches:
    """What tasks did in each interval between two samples. Seconds of their own time: as long as it
    would take alone on the PC. Shapes ``(tasks, intervals)``.
    """

    computing: Floats
    cpu_work: Floats
    """CPU seconds of all its threads."""
    moving: Floats
    """Time spent moving data."""
    disk_work: Floats
    """Seconds the drive is busy for it, at the cost it has while others use the drive as well."""
    waiting: Floats
    held_up: tuple[Floats, Floats]
    """Part of the waiting during which the cores, and the drive, had more to do than they could:
    most waits then are for others who wait for them.
    """

    @property
    def summed(self) -> Floats:
        """Everything done up to the edges of the intervals, from 0: own time, computing, CPU work,
        moving, disk work, and what waiting was held up on cores and drive. Shape
        ``(7, tasks, intervals + 1)``.
        """
        own = self.computing + self.moving + self.waiting
        done = (own, self.computing, self.cpu_work, self.moving, self.disk_work, *self.held_up)
        sums = np.zeros((len(done), own.shape[0], own.shape[1] + 1))
        for column, to in zip(done, sums, strict=True):
            np.cumsum(column, axis=1, out=to[:, 1:])
        return sums


class Contention:
    """CPU and disk use of each program run in each interval between two samples, and the slowdown.

    Arrays have shape ``(intervals,)`` or ``(runs, intervals)``. ``rows`` are the runs of each task:
    an entry by its id, a service that no manager told of by its control group, or the system.
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
        grid = ReadingsGrid(timeline.runs, samples.seconds)
        cpu, read = run_work(timeline.runs, samples, grid)
        cpu = fitted(cpu, grown(samples.cpu_seconds))
        self.first_cpu = cpu[:, 0]
        self.cpu, moved = np.diff(cpu, axis=1), np.diff(read, axis=1)
        moved = moved + np.diff(np.nan_to_num(grid.of(lambda run: run.bytes_written)), axis=1)
        self.rows: dict[str, list[int]] = {}
        service = unlisted_services(timeline.entries)
        for row, run in enumerate(timeline.runs):
            owner = owners[run.run]
            if owner.kind is not OwnerKind.ASIDE:
                name = _task_name(owner) or service(run.control_group)
                self.rows.setdefault(name, []).append(row)
        left = [row for rows in self.rows.values() for row in rows]
        total = np.maximum(np.diff(samples.cpu_seconds), 0.0)
        self.unclaimed_cpu = np.maximum(total - self.cpu.sum(axis=0), 0.0)
        self.busy = np.clip(np.diff(samples.disk_busy_seconds), 0.0, self.width)
        bytes_moved = np.maximum(
            np.diff(samples.disk_read_bytes) + np.diff(samples.disk_written_bytes), 0.0
        )
        self.moved = moved
        self.costs = costs
        relative_cost = np.ones(len(timeline.runs))
        for name, rows in self.rows.items():
            relative_cost[rows] = costs.of(name)
        unattributed = bytes_moved - (moved[left].sum(axis=0) if left else 0.0)
        self.unattributed = np.maximum(unattributed, 0.0)
        # The drive's busy time is shared out by bytes times their relative cost; bytes of no
        # program count as the system's.
        weight = moved * relative_cost[:, None]
        everything = np.maximum(weight[left].sum(axis=0) + self.unattributed, 1.0)
        self.disk = self.busy * weight / everything
        self.unclaimed_disk = self.busy * self.unattributed / everything
        self.cores = samples.cores
        self.queued = np.diff(grid.of(lambda run: run.queued_seconds), axis=1)
        self.capacity = self._capacity(samples)
        """CPU seconds that its programs could have in a second."""
        if self.capacity < self.cores:
            total = np.minimum(total, self.cpu.sum(axis=0))
        self.cores_full = total >= SATURATED * self.capacity * self.width
        self.drive_full = self.busy >= SATURATED * self.width
        self.cpu_slow = self._cpu_slowness(total, _queue(timeline.samples, "runnable", samples))
        self.own = np.diff(grid.of(lambda run: run.cpu_seconds), axis=1)
        """CPU seconds of each run's own threads, those of ended children left out."""
        self.disk_wait = self._disk_wait(_queue(timeline.samples, "blocked", samples))

    def _capacity(self, samples: Samples) -> float:
        """All its cores, or less where programs waited for a core, by the kernel's account as well,
        while they had less together: a host gives the PC no more, or others on it take the rest.
        """
        if samples.cpu_pressure_seconds is None:
            return float(self.cores)
        waited = np.nansum(np.maximum(self.queued, 0.0), axis=0) > self.width / 2
        waited &= np.diff(samples.cpu_pressure_seconds) > self.width / 2
        if float(self.width[waited].sum()) < LEAST_QUEUED_SECONDS:
            return float(self.cores)
        had = median((self.cpu.sum(axis=0) / self.width)[waited].tolist())
        return max(had, LEAST_CAPACITY) if had < STARVED * self.cores else float(self.cores)

    def _cpu_slowness(self, total: Floats, queue: Floats | None) -> Floats:
        """CPU slowdown per interval: how many times longer computing took because the cores were
        shared.

        Processor sharing: with ``queue`` runnable threads on ``cores`` cores each gets cores /
        queue of one, so that its work takes queue / cores times as long; 1 below saturation. Where
        the run queue was not recorded, the median rate at which CPU work was done, weighted by that
        work, is taken for a thread's share. It overestimates the slowdown of a task that is often
        blocked.
        """
        saturated = total >= SATURATED * self.capacity * self.width
        if queue is not None:
            return np.where(saturated, np.maximum(1.0, queue / self.capacity), 1.0)
        rate = np.minimum(self.cpu / self.width, 1.0)
        got = _weighted_median(rate, self.cpu)
        return np.where(saturated & (got > 0), np.maximum(1.0, 1 / np.maximum(got, 1e-3)), 1.0)

    def _disk_wait(self, queue: Floats | None) -> Floats:
        """Seconds that moving one byte took where the drive was saturated, per interval; else 0.

        A drive that serves its ``queue`` of waiting tasks in turn, some bytes each, moves
        everything / queue for each of them meanwhile. Where the queue was not recorded, the task
        that moved most is taken to have waited all the time, which underestimates the wait of all
        others.
        """
        saturated = self.busy >= SATURATED * self.width
        most = self.moved.max(axis=0, initial=0.0)
        if queue is not None:
            everything = self.moved.sum(axis=0) + self.unattributed
            most = everything / np.maximum(queue, 1.0)
        return np.where(saturated & (most > 0), self.width / np.maximum(most, 1.0), 0.0)

    def own_times(self, names: Sequence[str], width: Floats) -> Stretches:
        """Own time of some tasks; of each interval only the last ``width`` seconds, shape
        ``(tasks, intervals)``.
        """
        rows = [self.rows.get(name, []) for name in names]
        # Runs of one task compute in parallel: the busiest decides how long that takes. A run whose
        # threads had more than one core had them at the same time.
        busiest = np.array([self._busiest(each) for each in rows], dtype=np.intp)
        busiest = busiest.reshape(len(rows), len(self.width))
        some = np.array([bool(each) for each in rows], dtype=bool)[:, None]
        at = np.arange(len(self.width))
        longest = np.where(some, self.cpu[busiest, at], 0.0)
        waited = np.where(some, self.queued[busiest, at], np.nan)
        slow = self._slowness(waited, self.own[busiest, at], longest)
        work, moved, disk = (_of_tasks(each, rows) for each in (self.cpu, self.moved, self.disk))
        return self._split(longest, work, moved, disk, width, names, slow)

    def own_time_of_system(self, here: Bools) -> Stretches:
        """Own time of the work that belongs to no entry, in the chosen intervals: a single task."""
        rows = self.rows.get(SYSTEM_TASK, [])
        work = self.cpu[rows].sum(axis=0) + self.unclaimed_cpu
        moved = self.moved[rows].sum(axis=0) + self.unattributed
        disk = self.disk[rows].sum(axis=0) + self.unclaimed_disk
        longest = self.cpu[rows].max(axis=0, initial=0.0)
        slow = self.slowness_of(rows, longest)
        longest, work, moved, disk, width = (
            (each * here)[None] for each in (longest, work, moved, disk, self.width)
        )
        return self._split(longest, work, moved, disk, width, [SYSTEM_TASK], slow)

    def slowness_of(self, rows: Sequence[int], longest: Floats) -> Floats:
        """CPU slowdown of the busiest of some runs, per interval: how many times longer computing
        took.
        """
        if not len(rows):
            return self.cpu_slow
        busiest, at = self._busiest(rows), np.arange(len(longest))
        return self._slowness(self.queued[busiest, at], self.own[busiest, at], longest)

    def _busiest(self, rows: Sequence[int]) -> Indices:
        """Which of some runs was busiest in each interval; the first of all where there is none."""
        if len(rows) < 2:
            return np.full(len(self.width), rows[0] if rows else 0)
        return np.asarray(np.array(rows, dtype=np.intp)[self.cpu[rows].argmax(axis=0)])

    def _slowness(self, waited: Floats, own: Floats, longest: Floats) -> Floats:
        """How many times longer computing took for runs that waited so long on a run queue while
        their own threads computed for ``own`` seconds.

        Where the kernel accounts for that waiting (schedstat), from it: (CPU time + waiting time) /
        CPU time. Else the same slowdown as for every task.
        """
        # The kernel does not tell how long children waited: the run's own threads have to have done
        # at least half of the work.
        informative = np.isfinite(waited) & (own > np.maximum(LEAST_WORK_SECONDS, longest / 2))
        ratio = 1 + np.fmax(waited, 0.0) / np.maximum(own, 1e-9)
        return np.where(informative, np.minimum(ratio, MOST_SLOWDOWN), self.cpu_slow)

    def _split(
        self,
        longest: Floats,
        work: Floats,
        moved: Floats,
        disk: Floats,
        width: Floats,
        names: Sequence[str],
        slow: Floats,
    ) -> Stretches:
        """Split intervals into computing, moving data and waiting: what is left of the width is
        waiting.
        """
        computing = np.minimum(longest * slow, width)
        moving = np.maximum(moved * self.disk_wait, disk)
        price = self._shared_price(names, moved, disk)
        took = computing + moving
        # Longer than the interval: computing and moving data overlapped, and both are scaled down.
        fits = np.where(took > width, width / np.maximum(took, 1e-9), 1.0)
        waiting = np.maximum(width - took * fits, 0.0)
        # Alone on the PC a thread has one core, or all that there is where that is less.
        alone = np.minimum(1.0, 1 / (slow * min(1.0, self.capacity)))
        return Stretches(
            computing=computing * fits * alone,
            cpu_work=work,
            moving=np.where(moving > 0, price, 0.0) * fits,
            disk_work=price,
            waiting=waiting,
            held_up=(waiting * self.cores_full, waiting * self.drive_full),
        )

    def _shared_price(self, names: Sequence[str], moved: Floats, disk: Floats) -> Floats:
        """Disk time that tasks' data would have taken at the cost it has while others use the
        drive.
        """
        everything = np.maximum(self.moved.sum(axis=0) + self.unattributed, 1.0)
        discount = np.array([self.costs.seek_discount(name) for name in names])
        return np.asarray(disk / (1 - discount[:, None] * exclusivity(moved / everything)))


def _of_tasks(of_runs: Floats, rows: Sequence[Sequence[int]]) -> Floats:
    """Sums over the runs of each task; shapes ``(runs, intervals)``, ``(tasks, intervals)``."""
    sums = np.zeros((len(rows), of_runs.shape[1]))
    for to, each in zip(sums, rows, strict=True):
        if len(each) == 1:
            to[:] = of_runs[each[0]]
        elif each:
            of_runs[each].sum(axis=0, out=to)
    return sums


def _queue(whole: Samples | None, name: str, samples: Samples) -> Floats | None:
    """Mean length of a queue in each interval, from counts at single instants in and around it;
    None where it was not recorded.
    """
    counts = getattr(whole, name) if whole is not None else None
    if whole is None or counts is None:
        return None
    seconds = whole.seconds
    even = np.concatenate(([0.0], np.cumsum(np.diff(seconds) * (counts[1:] + counts[:-1]) / 2)))
    start = np.maximum(samples.seconds[:-1] - QUEUE_SECONDS, seconds[0])
    end = np.minimum(samples.seconds[1:] + QUEUE_SECONDS, seconds[-1])
    area = np.interp(end, seconds, even) - np.interp(start, seconds, even)
    return np.asarray(area / np.maximum(end - start, 1e-9))


def _task_name(owner: Owner) -> str:
    return owner.entry_id if owner.kind is OwnerKind.ENTRY else SYSTEM_TASK


def _weighted_median(values: Floats, weights: Floats) -> Floats:
    """Weighted median down the columns; 0 where all weights are 0."""
    order = np.argsort(values, axis=0)
    values = np.take_along_axis(values, order, axis=0)
    summed = np.cumsum(np.take_along_axis(weights, order, axis=0), axis=0)
    half = summed[-1] / 2
    index = (summed >= half).argmax(axis=0)
    return np.where(summed[-1] > 0, values[index, np.arange(values.shape[1])], 0.0)
