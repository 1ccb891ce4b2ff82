"""The four curves of the machine's use, and their values at an instant."""

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum

from plucky_ledger.core.boots.samples import Floats, Samples, rates


class StripKind(StrEnum):
    """What a curve shows."""

    CPU = "cpu"
    DISK = "disk"
    MEMORY = "memory"
    PROCESSES = "processes"


@dataclass(frozen=True, eq=False)
class Strip:
    """One resource curve, drawn as steps between neighbouring instants."""

    kind: StripKind
    full: float
    """What full height means: cores, seconds of a second, bytes, or processes."""
    edges: Floats
    """Shape (n + 1,): seconds at which the steps begin and end."""
    heights: Floats
    """Shape (n,): 0 to 1; NaN where unknown."""
    moved: Floats | None = None
    """Shape (n,), for the disk: bytes a second read and written."""


@dataclass(frozen=True)
class StripReading:
    """What a curve reads at an instant."""

    kind: StripKind
    height: float
    """0 to 1; NaN where unknown."""
    value: float
    """In what ``Strip.full`` is in."""
    moved: float | None


def strips_of(samples: Samples) -> tuple[Strip, ...]:
    """The four resource curves of a boot."""
    if len(samples) < 2:
        return ()
    usable = rates(samples)
    total = samples.memory_total_bytes or float(samples.memory_held_bytes.max())
    memory, processes = samples.memory_held_bytes[1:], samples.processes[1:]
    most = float(processes.max())
    edges = samples.seconds
    return (
        Strip(StripKind.CPU, float(samples.cores), edges, usable.cpu_share),
        Strip(StripKind.DISK, 1.0, edges, usable.disk_share, usable.disk_bytes_per_second),
        Strip(StripKind.MEMORY, total, edges, memory / total),
        Strip(StripKind.PROCESSES, most, edges, processes / most),
    )


def reading_of(strip: Strip, index: int) -> StripReading:
    """What a curve reads in one of its steps."""
    height = float(strip.heights[index])
    moved = float(strip.moved[index]) if strip.moved is not None else None
    return StripReading(strip.kind, height, height * strip.full, moved)


def readings_at(strips: Iterable[Strip], seconds: float) -> tuple[StripReading, ...]:
    """What curves read at an instant."""
    readings = []
    for strip in strips:
        index = int(strip.edges.searchsorted(seconds, side="right")) - 1
        if 0 <= index < len(strip.heights):
            readings.append(reading_of(strip, index))
    return tuple(readings)
