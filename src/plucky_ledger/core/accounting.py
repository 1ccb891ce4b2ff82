"""How much of the machine's work the program runs explain, short-lived ones included.

When a process ends and its parent takes note, the kernel adds what it used to what the parent has
inherited. So the programs still running at an instant hold, with what they inherited, everything
that was ever used below them, programs that nobody saw among it.
"""

from dataclasses import dataclass, replace
from math import isnan

import numpy as np

from plucky_ledger.core.programs import ProgramRun, value_at
from plucky_ledger.core.samples import Samples, grown_by


@dataclass(frozen=True)
class Explained:
    """Work until an instant by how it is known, in CPU seconds or bytes; parts sum to total."""

    total: float
    """What the system's own counter says."""
    seen: float
    """Of program runs that were seen running."""
    short_lived: float
    """Of programs that came and went between two samples: known from what others inherited."""

    @property
    def unexplained(self) -> float:
        """Interrupts, the kernel's own reads, and what no parent took note of."""
        return self.total - self.seen - self.short_lived

    @property
    def share(self) -> float:
        """Explained part of the whole, 0 to 1."""
        return (self.seen + self.short_lived) / self.total if self.total > 0 else 1.0


def explained_cpu(samples: Samples, runs: tuple[ProgramRun, ...], until: float) -> Explained:
    """Account for the CPU work between the kernel's start and ``until`` (seconds)."""
    total = grown_by(samples.cpu_seconds, samples.seconds, until)
    seen = sum(value_at(run, run.cpu_seconds, until) for run in runs)
    held = sum(
        value_at(run, run.cpu_seconds, until) + value_at(run, run.children_cpu_seconds, until)
        for run in runs
        if _there(run, until)
    )
    return _within(total, seen, held)


def explained_disk(samples: Samples, runs: tuple[ProgramRun, ...], until: float) -> Explained:
    """Account for the bytes read from drives; what may not be read of a run stays unexplained."""
    total = grown_by(samples.disk_read_bytes, samples.seconds, until)
    held = sum(_known(value_at(run, run.bytes_read, until)) for run in runs if _there(run, until))
    return _within(total, held, held)


def _within(total: float, seen: float, held: float) -> Explained:
    """Counters of programs and of the machine are kept apart and may differ by their rounding."""
    seen = min(seen, total)
    return Explained(total, seen, min(max(0.0, held - seen), total - seen))


def _there(run: ProgramRun, instant: float) -> bool:
    return run.ended is None or run.ended > instant


def _known(value: float) -> float:
    return 0.0 if isnan(value) else value


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
