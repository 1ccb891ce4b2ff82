"""Samples: the system-wide counters of one boot as columns, and the rates between them."""

from dataclasses import dataclass, fields, replace

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]
Indices = NDArray[np.intp]


@dataclass(frozen=True, kw_only=True, eq=False)
class Samples:
    """Counters read at ``n`` instants of one boot.

    Every column has shape ``(n,)`` and dtype float64. Columns called cumulative only grow; where
    a counter nevertheless went backwards the rate across that gap is NaN.
    """

    seconds: Floats
    """Since the kernel started, strictly increasing; goes on in suspend."""
    cpu_seconds: Floats
    """Cumulative: CPU time used by everything on all cores."""
    disk_read_bytes: Floats
    """Cumulative, whole drives only."""
    disk_written_bytes: Floats
    """Cumulative, whole drives only."""
    disk_busy_seconds: Floats
    """Cumulative: time the drives had work, all drives together."""
    memory_held_bytes: Floats
    """Memory that cannot be had for new programs at that instant."""
    processes: Floats
    """How many processes there were."""
    own_cpu_seconds: Floats
    """Cumulative: CPU time of the recorder itself."""
    own_memory_bytes: Floats
    """Resident memory of the recorder itself."""
    runnable: Floats | None = None
    """Threads that computed or waited for a core at each instant; None where not counted."""
    blocked: Floats | None = None
    """Threads that waited for a drive at each instant; None where not counted."""
    disk_requests: Floats | None = None
    """Cumulative: requests that the drives have answered; None where not counted."""
    disk_answer_seconds: Floats | None = None
    """Cumulative: how long those took together."""
    cpu_pressure_seconds: Floats | None = None
    """Cumulative: time in which some program waited for a core; None where not counted."""
    io_pressure_seconds: Floats | None = None
    """The same for a drive."""
    memory_pressure_seconds: Floats | None = None
    """The same for memory."""
    cores: int = 1
    memory_total_bytes: float = 0.0

    def __len__(self) -> int:
        return len(self.seconds)

    @property
    def end(self) -> float:
        """Instant of the last sample."""
        return float(self.seconds[-1])


@dataclass(frozen=True, eq=False)
class Rates:
    """What went on between one sample and the next: ``n - 1`` intervals of ``n`` samples."""

    start: Floats
    end: Floats
    cpu_share: Floats
    """Share of all cores busy, 0 to 1, without the recorder's own work. NaN across a fault."""
    disk_share: Floats
    """Share of the time the drive had work, 0 to 1."""
    disk_bytes_per_second: Floats
    """Read and written together."""


def rates(samples: Samples) -> Rates:
    """Rates between neighbouring samples, net of the recorder itself."""
    width = np.diff(samples.seconds)
    cpu = _growth(samples.cpu_seconds) - np.nan_to_num(_growth(samples.own_cpu_seconds))
    moved = _growth(samples.disk_read_bytes) + _growth(samples.disk_written_bytes)
    return Rates(
        start=samples.seconds[:-1],
        end=samples.seconds[1:],
        cpu_share=np.clip(cpu / (width * samples.cores), 0.0, 1.0),
        disk_share=np.clip(_growth(samples.disk_busy_seconds) / width, 0.0, 1.0),
        disk_bytes_per_second=moved / width,
    )


def thinned(samples: Samples, step_seconds: float) -> Samples:
    """The samples at about even steps, none nearer to the one before than nine tenths of a step.

    Cumulative counters lose nothing by that.
    """
    kept, last = [0], float(samples.seconds[0])
    for index, seconds in enumerate(samples.seconds[1:].tolist(), 1):
        if seconds - last >= 0.9 * step_seconds or index == len(samples) - 1:
            kept.append(index)
            last = seconds
    return samples if len(kept) == len(samples) else _rows(samples, kept)


def cut_off(samples: Samples, until: float) -> Samples:
    """The samples up to the first at or after an instant (seconds)."""
    count = int(samples.seconds.searchsorted(until)) + 1
    return samples if count >= len(samples) else _rows(samples, list(range(count)))


def _rows(samples: Samples, kept: list[int]) -> Samples:
    columns = {
        field.name: getattr(samples, field.name)[kept]
        for field in fields(samples)
        if isinstance(getattr(samples, field.name), np.ndarray)
    }
    return replace(samples, **columns)


def _growth(counter: Floats) -> Floats:
    """Differences of a counter; NaN where it went backwards."""
    steps = np.diff(counter)
    return np.where(steps >= 0, steps, np.nan)


def grown_by(counter: Floats, seconds: Floats, instant: float) -> float:
    """Growth of a cumulative ``counter`` up to ``instant``, counted from the boot's start.

    Counters of the system start at zero with the kernel, so the value itself is the growth.
    Backward steps (a counter that wrapped) are bridged by leaving the step out.
    """
    steps = np.concatenate(([max(counter[0], 0.0)], np.nan_to_num(_growth(counter))))
    return float(np.interp(instant, seconds, np.cumsum(steps)))
