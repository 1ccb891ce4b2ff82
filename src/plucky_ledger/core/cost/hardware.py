"""A recorded boot as it would have gone on other hardware: a quicker drive, more cores.

What a task computes and waits for stays as it was; what it moves takes so much less of its own
time. What was up in between is up sooner by what it had moved until then.
"""

import math
from dataclasses import replace

import numpy as np

from plucky_ledger.core.boots.samples import Floats
from plucky_ledger.core.cost.workload import STEP_SECONDS, Table, Task, Workload

QUICKER_DRIVE = 10.0
"""How many times as fast a solid-state drive answers as a rotating one in a start-up's mixture of
short and long reads, at the least."""
MORE_CORES = 2
MOST_KEPT = 0.95
"""Something always has to be read."""


def on_quicker_drive(workload: Workload, times: float = QUICKER_DRIVE) -> Workload:
    """The same boot with a drive that answers so many times as fast."""
    spared = 1 - 1 / times
    anchored = [task.lag for task in workload.tasks if _from_the_kernel(task)]
    # Before the first service, the kernel alone waited for the drive.
    sooner = spared * min([workload.moved_before, *anchored])
    tasks = tuple(_quicker(task, times, sooner) for task in workload.tasks)
    signed_in = workload.signed_in - sooner if workload.signed_in else 0.0
    return replace(workload, tasks=tasks, signed_in=signed_in)


def with_more_memory(workload: Workload, kept: float) -> Workload:
    """The same boot where a share ``kept`` of all that is moved stays in memory instead."""
    times = 1 / (1 - min(kept, MOST_KEPT))
    return replace(workload, tasks=tuple(_quicker(task, times, 0.0) for task in workload.tasks))


def with_more_cores(workload: Workload, times: int = MORE_CORES) -> Workload:
    """The same boot with so many times as many cores."""
    return replace(workload, cores=workload.cores * times)


def _from_the_kernel(task: Task) -> bool:
    """Whether its release is counted from the kernel's start."""
    return not task.at_sign_in and not task.after


def _quicker(task: Task, times: float, sooner_from_kernel: float) -> Task:
    table = task.table
    spared = 1 - 1 / times
    own = np.arange(len(table.disk_time)) * STEP_SECONDS

    def sooner(instant: float) -> float:
        """Where in the task's own time it is now at what was at ``instant`` before."""
        return instant - spared * float(np.interp(instant, own, table.disk_time))

    length = sooner(table.length)
    at = np.arange(math.ceil(length / STEP_SECONDS) + 2) * STEP_SECONDS
    now = own - spared * table.disk_time

    def column(before: Floats, share: float = 1.0) -> Floats:
        return np.asarray(np.interp(at, now, before) * share)

    quicker = Table(
        cpu_time=column(table.cpu_time),
        cpu_work=column(table.cpu_work),
        disk_time=column(table.disk_time, 1 / times),
        disk_work=column(table.disk_work, 1 / times),
        length=length,
    )
    up_after = sooner(task.up_after) if math.isfinite(task.up_after) else task.up_after
    lag = task.lag - sooner_from_kernel if _from_the_kernel(task) else task.lag
    return replace(task, table=quicker, up_after=up_after, lag=lag)
