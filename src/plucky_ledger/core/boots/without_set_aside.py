"""The samples of a boot without the programs that were set aside."""

from dataclasses import replace
from math import isnan

import numpy as np

from plucky_ledger.core.boots.programs import ProgramRun, value_at
from plucky_ledger.core.boots.samples import Samples


def without_programs(samples: Samples, aside: tuple[ProgramRun, ...]) -> Samples:
    """The samples as they would read without some program runs, such as a remote-help session.

    CPU, disk reads and memory of the runs are taken out. The time the drives were busy is taken out
    in proportion to the bytes, for want of anything better.
    """
    cpu, read, memory = samples.cpu_seconds, samples.disk_read_bytes, samples.memory_held_bytes
    present = np.zeros_like(samples.seconds)
    taken = np.zeros_like(read)
    for run in aside:
        at = [float(instant) for instant in samples.seconds]
        cpu = cpu - np.array([value_at(run, run.cpu_seconds, instant) for instant in at])
        taken = taken + np.array([_known(value_at(run, run.bytes_read, instant)) for instant in at])
        alive = np.array([run.started <= instant and _there(run, instant) for instant in at])
        held = np.array([value_at(run, run.memory_bytes, instant) for instant in at])
        memory = memory - np.where(alive, held, 0.0)
        present = present + alive
    steps = np.diff(read, prepend=0.0)
    share = np.divide(np.diff(taken, prepend=0.0), steps, out=np.zeros_like(read), where=steps > 0)
    busy = np.cumsum(np.diff(samples.disk_busy_seconds, prepend=0.0) * (1 - np.clip(share, 0, 1)))
    return replace(
        samples,
        cpu_seconds=np.maximum.accumulate(np.maximum(cpu, 0.0)),
        disk_read_bytes=np.maximum.accumulate(np.maximum(read - taken, 0.0)),
        disk_busy_seconds=busy,
        memory_held_bytes=np.maximum(memory, 0.0),
        processes=samples.processes - present,
    )


def _there(run: ProgramRun, instant: float) -> bool:
    return run.ended is None or run.ended > instant


def _known(value: float) -> float:
    return 0.0 if isnan(value) else value
