"""Settled: from when on CPU and disk stay calm. manual/methods.md explains it to a technician."""

from dataclasses import dataclass, replace
from math import isnan
from statistics import median

import numpy as np

from plucky_ledger.core.boots.calm import (
    CPU_SHARE,
    DISK_SHARE,
    LEAST_CORES,
    MOST_CORES,
    SPIKE_SHARE,
    WINDOW_SECONDS,
)
from plucky_ledger.core.boots.samples import Bools, Floats, Rates, Samples, rates, thinned


@dataclass(frozen=True, kw_only=True)
class CalmLevels:
    """What counts as calm."""

    cpu_share: float = CPU_SHARE
    """Highest share of all cores (0 to 1), within the next two bounds."""
    least_cores: float = LEAST_CORES
    """On a PC with few cores this much of one core is still calm."""
    most_cores: float = MOST_CORES
    """On a PC with many cores no more than this much of one core: one program that keeps a single
    core busy is not calm, however many cores idle beside it."""
    disk_share: float = DISK_SHARE
    """Highest share of the time the drive has work (0 to 1)."""
    window_seconds: float = WINDOW_SECONDS
    """How long it has to last."""
    spike_share: float = SPIKE_SHARE
    """Share of the window that single spikes may take without breaking the calm."""
    step_seconds: float = 1.0
    """Samples that come quicker are taken together to about this step: spikes stay spikes."""
    own_share: float = 0.0
    """Level taken from the PC's own rest (share of all cores), where the fixed one is never met."""
    quiet_seconds: float = 3.0
    """The beginning of the calm, which spikes must not fill either."""
    quiet_share: float = 0.4
    """Share of that beginning that spikes may take."""


DEFAULT_LEVELS = CalmLevels()


@dataclass(frozen=True)
class Settled:
    """When a boot settled."""

    seconds: float
    """Since time zero, sign-in wait included. When ``censored``: not before this instant."""
    censored: bool
    """The recording ended before the PC had been calm for long enough."""
    own_rest: bool
    """The PC's own rest was the yardstick because it is never as calm as the fixed levels."""
    unseen: bool = False
    """It was calm from the first sample on and could have been for a while: it settled before
    ``seconds``, at a time that nobody saw."""

    @property
    def at(self) -> float | None:
        """The instant at which it settled; None where it only did so later or earlier."""
        return None if self.censored or self.unseen else self.seconds


def find_settled(
    samples: Samples, after: float, levels: CalmLevels = DEFAULT_LEVELS
) -> Settled | None:
    """Earliest instant at or after ``after`` (seconds) from which the PC stays calm.

    Each interval between two samples is calm or not; settled is the start of the first calm
    interval whose following window is calm but for single spikes. The instant is refined within
    the last busy interval by how much of it was busy. Returns None with fewer than two samples
    after ``after``.
    """
    return settled_in(rates(thinned(samples, levels.step_seconds)), samples.cores, after, levels)


def settled_in(usable: Rates, cores: int, after: float, levels: CalmLevels) -> Settled | None:
    """The same from what went on between the samples of a PC with so many cores."""
    late = usable.end > after
    if not late.any():
        return None
    calm = _calm(usable, cores, levels)
    calm_at = _first_calm(usable, calm, _busy(usable, cores, levels), after, levels)
    if calm_at is not None:
        return Settled(_refined(usable, calm, calm_at, after), censored=False, own_rest=False)
    rest = _rest_levels(usable, after, levels)
    if rest is not None:
        calm_for_it = _calm(usable, cores, rest)
        busy = _busy(usable, cores, rest)
        calm_at = _first_calm(usable, calm_for_it, busy, after, rest)
        if calm_at is not None:
            instant = _refined(usable, calm_for_it, calm_at, after)
            return Settled(instant, censored=False, own_rest=True)
    return Settled(_not_before(usable, calm, after), censored=True, own_rest=False)


def calm_seconds(samples: Samples, begin: float, end: float) -> float:
    """For how long the PC was calm between two instants."""
    usable = rates(thinned(samples, DEFAULT_LEVELS.step_seconds))
    calm = _calm(usable, samples.cores, DEFAULT_LEVELS)
    overlap = np.minimum(usable.end, end) - np.maximum(usable.start, begin)
    return float(np.maximum(overlap, 0.0)[calm].sum())


def _calm(usable: Rates, cores: int, levels: CalmLevels) -> Bools:
    cpu_level, disk_level = _levels(cores, levels)
    # A gap whose counters cannot be trusted (NaN) neither proves nor breaks the calm.
    return np.asarray(~((usable.cpu_share > cpu_level) | (usable.disk_share > disk_level)))


def _busy(usable: Rates, cores: int, levels: CalmLevels) -> Floats:
    """How far each interval is from calm: 0 up to the calm level, 1 from twice that on.

    A little event just above the level is no second of work: what settled hangs on must not be
    one sample that was on this side of a line or on that.
    """
    cpu_level, disk_level = _levels(cores, levels)
    beyond = np.fmax(usable.cpu_share / cpu_level, usable.disk_share / disk_level) - 1.0
    return np.asarray(np.minimum(np.fmax(beyond, 0.0), 1.0))


def _levels(cores: int, levels: CalmLevels) -> tuple[float, float]:
    """Highest calm shares of all cores and of the drive's time."""
    cores_busy = min(max(levels.cpu_share * cores, levels.least_cores), levels.most_cores)
    return max(cores_busy / cores, levels.own_share), levels.disk_share


def _first_calm(
    usable: Rates, calm: Bools, busy_share: Floats, after: float, levels: CalmLevels
) -> int | None:
    """Index of the interval from which the calm lasts, or None."""
    width = usable.end - usable.start
    busy_so_far = np.concatenate(([0.0], np.cumsum(busy_share * width)))
    edges = np.concatenate((usable.start[:1], usable.end))
    begins = np.flatnonzero(calm & (usable.end > after))
    start, before = usable.start[begins], busy_so_far[begins]
    window_end = np.maximum(start, after) + levels.window_seconds
    busy = np.interp(window_end, edges, busy_so_far) - before
    # One calm second between busy ones is a breath, not the beginning of rest. A single event is
    # none: settled must not hang on one sample.
    breath = np.interp(start + levels.quiet_seconds, edges, busy_so_far) - before
    lasts = (
        (window_end <= edges[-1] + 1e-6)
        & (busy <= levels.spike_share * levels.window_seconds)
        & (breath <= levels.quiet_share * levels.quiet_seconds)
    )
    return int(begins[lasts.argmax()]) if lasts.any() else None


def _refined(usable: Rates, calm: Bools, index: int, after: float) -> float:
    """Instant within the last busy interval at which the work ended, from its busy share."""
    start = float(usable.start[index])
    if index == 0 or start <= after or calm[index - 1]:
        return max(start, after)
    busy, before = _load(usable, index - 1), _load(usable, max(index - 2, 0))
    if index < 2 or before <= 0:
        return start
    width = float(usable.end[index - 1] - usable.start[index - 1])
    instant = float(usable.start[index - 1]) + width * min(1.0, busy / before)
    return max(instant, after)


def _load(usable: Rates, index: int) -> float:
    shares = float(usable.cpu_share[index]), float(usable.disk_share[index]), 0.0
    return max(share for share in shares if not isnan(share))


def _rest_levels(usable: Rates, after: float, levels: CalmLevels) -> CalmLevels | None:
    """Levels from the PC's own rest: the last stretch, if it has stopped falling."""
    end = float(usable.end[-1])
    tail = usable.start >= end - 3 * levels.window_seconds
    earlier = (usable.start >= end - 6 * levels.window_seconds) & ~tail
    if end - after < 6 * levels.window_seconds or not earlier.any():
        return None
    cpu_tail, cpu_earlier = _typical(usable.cpu_share, tail), _typical(usable.cpu_share, earlier)
    disk_tail = _typical(usable.disk_share, tail)
    disk_earlier = _typical(usable.disk_share, earlier)
    # Work that is still fading out, or a drive or CPU pinned at its limit, is no rest.
    if cpu_tail < 0.8 * cpu_earlier or disk_tail < 0.8 * disk_earlier:
        return None
    if cpu_tail > 0.6 or disk_tail > 0.6:
        return None
    return replace(
        levels,
        own_share=1.5 * cpu_tail,
        disk_share=max(levels.disk_share, 1.5 * disk_tail),
    )


def _typical(share: Floats, where: Bools) -> float:
    chosen = share[where & ~np.isnan(share)]
    return median(chosen.tolist()) if len(chosen) else 0.0


def _not_before(usable: Rates, calm: Bools, after: float) -> float:
    """Latest instant at which the PC was still seen busy: it cannot have settled before."""
    busy = np.flatnonzero(~calm & (usable.end > after))
    return float(usable.end[busy[-1]]) if len(busy) else max(after, float(usable.start[0]))
