"""Counters that are older than the boot, as in a container or a machine that was restored."""

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from plucky_ledger.core.boots.samples import Floats, Samples
from plucky_ledger.recording.lines import ProgramsLine

COUNTED_BY_SOME = (
    "disk_requests",
    "disk_answer_seconds",
    "cpu_pressure_seconds",
    "io_pressure_seconds",
    "memory_pressure_seconds",
)
"""Counters that not every recording has."""
ROUNDED_SECONDS = 1.0
"""By how much the CPU time used may seem to be more than there was."""


def counted_before(samples: Samples, readings: Sequence[ProgramsLine]) -> float:
    """CPU seconds that were counted before the PC was started; 0 where none can be known.

    No PC computes for longer than it runs, times its cores. What had been used by the first
    sample is then what the programs say that they had used.
    """
    counted = float(samples.cpu_seconds[0])
    if counted <= float(samples.seconds[0]) * samples.cores + ROUNDED_SECONDS:
        return 0.0
    return counted - _used_by_programs(samples, readings)[0]


def since_the_start(samples: Samples, readings: Sequence[ProgramsLine]) -> Samples:
    """The same with all counters beginning at the boot."""
    if not counted_before(samples, readings):
        return samples
    cpu, read, written = _used_by_programs(samples, readings)
    more: dict[str, Any] = {
        name: _from(column, 0.0)
        for name in COUNTED_BY_SOME
        if (column := getattr(samples, name)) is not None
    }
    return replace(
        samples,
        cpu_seconds=_from(samples.cpu_seconds, cpu),
        disk_read_bytes=_from(samples.disk_read_bytes, read),
        disk_written_bytes=_from(samples.disk_written_bytes, written),
        disk_busy_seconds=_from(samples.disk_busy_seconds, 0.0),
        **more,
    )


def _from(counter: Floats, first: float) -> Floats:
    return np.asarray(counter - counter[0] + first)


def _used_by_programs(
    samples: Samples, readings: Sequence[ProgramsLine]
) -> tuple[float, float, float]:
    """What those that were there at the first sample had used: CPU seconds, bytes read, written."""
    first = float(samples.seconds[0])
    rows = [row for line in readings if line.seconds <= first for row in line.rows]
    cpu = sum(row.cpu_seconds + row.children_cpu_seconds for row in rows)
    return (
        min(cpu, first * samples.cores),
        float(sum(row.bytes_read or 0 for row in rows)),
        float(sum(row.bytes_written or 0 for row in rows)),
    )
