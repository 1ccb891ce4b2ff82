"""When a recording may end: a simple rest detector, without numpy.

It may end a recording too late, never too early: it asks for a longer calm than settled does. A PC
that never is that calm, as where something always takes a fifth of a core, has a rest of its own,
known by its being steady for long.
"""

from collections import deque
from collections.abc import Sequence

import msgspec

from plucky_ledger.core.boots.calm import (
    CPU_SHARE,
    DISK_SHARE,
    LEAST_CORES,
    MOST_CORES,
    SPIKE_SHARE,
    WINDOW_SECONDS,
)
from plucky_ledger.recording.lines import SampleLine

MARGIN_SECONDS = 15.0
STEADY_SECONDS = 90.0
MOST_STEADY = 0.6
"""Of a core, or of a drive's time: more is work, however steady."""
MOST_WAITED = 0.5
"""Share of the time: where somebody waits for a core for longer, as on a PC that a host gives
little, that is work at its limit and no rest, however steady."""
FALLEN = 0.8
"""Share of its earlier half from which on the later one is still fading out."""
ABOVE_STEADY = 1.5
"""How much more than usual is a spike."""
STEP_SECONDS = 0.95
"""Samples that come quicker are taken together."""


class _Stretch(msgspec.Struct, frozen=True):
    """What was used between two instants: CPU in cores, the drive in shares of its time."""

    start: float
    end: float
    cpu: float
    disk: float
    waited: float
    """Share of the time in which some program waited for a core; 0 where nobody tells."""


class RestWatch:
    """Takes every sample; ``rested`` once the PC has been at rest for long enough."""

    def __init__(self, cores: int, not_before: float) -> None:
        self._cpu_level = min(max(CPU_SHARE * cores, LEAST_CORES), MOST_CORES)
        self._not_before = not_before
        self._last: SampleLine | None = None
        self._stretches: deque[_Stretch] = deque()
        self.rested = False
        self.calm_since: float | None = None
        """When the calm began in which it rested, in seconds since the kernel started."""

    def take(self, sample: SampleLine) -> None:
        """Take one more sample."""
        last = self._last
        if last is None or sample.seconds < last.seconds:
            self._last = sample
        if last is None or sample.seconds - last.seconds < STEP_SECONDS:
            return
        self._last = sample
        self._stretches.append(_between(last, sample))
        while self._stretches and sample.seconds - self._stretches[0].end >= STEADY_SECONDS:
            self._stretches.popleft()
        self.calm_since = self._calm_since(sample.seconds)
        if self.calm_since is None and self._is_steady():
            self.calm_since = self._stretches[0].start
        self.rested = self.calm_since is not None

    def _calm_since(self, now: float) -> float | None:
        """Since when the stretches were below the levels that are calm on any PC; None where not
        for long enough.
        """
        seconds = WINDOW_SECONDS + MARGIN_SECONDS
        late = [part for part in self._stretches if now - part.end < seconds]
        busy = [part for part in late if part.cpu > self._cpu_level or part.disk > DISK_SHARE]
        since = late[0].start
        long_enough = now - since >= seconds and since >= self._not_before
        return since if long_enough and _seconds(busy) <= SPIKE_SHARE * seconds else None

    def _is_steady(self) -> bool:
        """Whether it has long been no busier, and is not becoming calmer: the PC's own rest."""
        first, last = self._stretches[0], self._stretches[-1]
        if last.end - first.start < STEADY_SECONDS or first.start < self._not_before:
            return False
        waited = sum(part.waited * (part.end - part.start) for part in self._stretches)
        if waited > MOST_WAITED * _seconds(self._stretches):
            return False
        middle = (first.start + last.end) / 2
        return all(
            _has_settled([(part, getattr(part, name)) for part in self._stretches], middle)
            for name in ("cpu", "disk")
        )


def _between(last: SampleLine, sample: SampleLine) -> _Stretch:
    width = sample.seconds - last.seconds
    cpu = sample.cpu_seconds - last.cpu_seconds
    cpu -= sample.own_cpu_seconds - last.own_cpu_seconds
    disk = sample.disk_busy_seconds - last.disk_busy_seconds
    waited = (sample.cpu_pressure_seconds or 0.0) - (last.cpu_pressure_seconds or 0.0)
    return _Stretch(last.seconds, sample.seconds, cpu / width, disk / width, waited / width)


def _has_settled(used: Sequence[tuple[_Stretch, float]], middle: float) -> bool:
    earlier = _median([amount for part, amount in used if part.end <= middle])
    later = _median([amount for part, amount in used if part.end > middle])
    spikes = [part for part, amount in used if amount > max(ABOVE_STEADY * later, LEAST_CORES)]
    fading_out = later < FALLEN * earlier and earlier > LEAST_CORES
    few_spikes = _seconds(spikes) <= SPIKE_SHARE * STEADY_SECONDS
    return later <= MOST_STEADY and few_spikes and not fading_out


def _median(amounts: list[float]) -> float:
    return sorted(amounts)[len(amounts) // 2] if amounts else 0.0


def _seconds(stretches: Sequence[_Stretch]) -> float:
    return sum(part.end - part.start for part in stretches)
