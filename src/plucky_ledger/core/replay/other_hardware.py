"""A workload on other hardware: a faster drive, faster cores, more memory.

The time a task spends with the part is divided by how many times faster that is; computing, moving
data or waiting otherwise stays as it was. Whatever the task reached in between, it reaches earlier
by what was saved until then.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from plucky_ledger.core.boots.samples import Floats
from plucky_ledger.core.replay.workload import STEP_SECONDS, Table, Task, Workload

QUICKER_DRIVE = 10.0
"""How many times faster a solid-state drive serves the mixed short and long reads of a boot than a
rotating one, at least."""
QUICKER_PROCESSOR = 2.0
"""How many times faster a core of a processor of today computes than one of ten years ago."""
MORE_BY_CORES = 0.6
"""By what share more a faster processor may win: a busy host also slows timers and the drive, and
what waits for these is not told apart (captured boots on a slow and a quick host)."""
MOST_KEPT = 0.95
"""Largest share of the moved data that more memory can keep: something always has to be read."""


@dataclass(frozen=True)
class _Part:
    """A part and how many times faster it is."""

    times: float
    drive: bool
    """Whether it is the drive, or else the processor."""

    @property
    def seek_discount(self) -> float:
        """Share of the time it takes that is spared."""
        return 1 - 1 / self.times

    def time_of(self, task: Task) -> Floats:
        """Own time that a task spends with the part, or waits for others that do, cumulative.

        Until it is up a task waits for what it knows: a device, a timer. Afterwards it answers to
        others, and while the part has more to do than it can these wait for it.
        """
        table = task.table
        with_it = table.disk_time if self.drive else table.cpu_time
        waited = table.held_up[self.drive]
        own = np.arange(len(waited)) * STEP_SECONDS
        at_up = float(np.interp(min(task.up_after, table.length), own, waited))
        return with_it + np.maximum(waited - at_up, 0.0)


def on_quicker_drive(workload: Workload) -> Workload:
    """The same boot with a drive that answers ``QUICKER_DRIVE`` times as fast."""
    return _with(workload, _Part(QUICKER_DRIVE, drive=True), workload.moved_before)


def on_quicker_processor(workload: Workload) -> Workload:
    """The same boot with cores that compute ``QUICKER_PROCESSOR`` times as fast."""
    return _with(workload, _Part(QUICKER_PROCESSOR, drive=False), workload.computed_before)


def with_more_memory(kept: float) -> Callable[[Workload], Workload]:
    """What turns a workload into one where a share ``kept`` (0 to 1) of all moved data stays in
    memory.
    """
    part = _Part(1 / (1 - min(kept, MOST_KEPT)), drive=True)
    return lambda workload: _with(workload, part, 0.0)


def _with(workload: Workload, part: _Part, before: float) -> Workload:
    """The workload with one part faster; ``before`` is how many seconds the kernel needed the part
    before the first service.
    """
    anchored = [task.lag for task in workload.tasks if _from_the_kernel(task)]
    sooner = part.seek_discount * min([before, *anchored])
    tasks = tuple(_quicker(task, part, sooner) for task in workload.tasks)
    signed_in = workload.signed_in - sooner if workload.signed_in else 0.0
    return replace(workload, tasks=tasks, signed_in=signed_in)


def _from_the_kernel(task: Task) -> bool:
    """Whether its release is counted from the kernel's start."""
    return not task.at_sign_in and not task.after


def _quicker(task: Task, part: _Part, sooner_from_kernel: float) -> Task:
    table = task.table
    own = np.arange(len(table.disk_time)) * STEP_SECONDS
    with_it = part.time_of(task)

    def sooner(instant: float) -> float:
        """Own time on the new hardware at which the task reaches what it reached at ``instant``
        before.
        """
        return instant - part.seek_discount * float(np.interp(instant, own, with_it))

    length = sooner(table.length)
    at = np.arange(math.ceil(length / STEP_SECONDS) + 2) * STEP_SECONDS
    now = own - part.seek_discount * with_it
    drive, processor = (1 / part.times, 1.0) if part.drive else (1.0, 1 / part.times)

    def column(before: Floats, share: float) -> Floats:
        return np.asarray(np.interp(at, now, before) * share)

    quicker = Table(
        cpu_time=column(table.cpu_time, processor),
        cpu_work=column(table.cpu_work, processor),
        disk_time=column(table.disk_time, drive),
        disk_work=column(table.disk_work, drive),
        held_up=(column(table.held_up[0], processor), column(table.held_up[1], drive)),
        length=length,
    )
    up_after = sooner(task.up_after) if math.isfinite(task.up_after) else task.up_after
    lag = task.lag - sooner_from_kernel if _from_the_kernel(task) else task.lag
    return replace(task, table=quicker, up_after=up_after, lag=lag)
