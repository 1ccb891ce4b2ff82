"""When a recording may end: a plain watch for rest, without the numerics the book uses later.

It may end a recording too late, never too early: it asks for a longer calm than settled does.
"""

from collections import deque

from plucky_ledger.recording.lines import SampleLine

CPU_SHARE, DISK_SHARE = 0.12, 0.25
LEAST_CORES, MOST_CORES = 0.20, 0.35
CALM_SECONDS = 10.0
MARGIN_SECONDS = 15.0
SPIKE_SHARE = 0.2


class RestWatch:
    """Told every sample; ``rested`` once the PC has been calm for long enough."""

    def __init__(self, cores: int, not_before: float) -> None:
        self._cpu_level = min(max(CPU_SHARE * cores, LEAST_CORES), MOST_CORES)
        self._not_before = not_before
        self._last: SampleLine | None = None
        self._spans: deque[tuple[float, float, bool]] = deque()
        self.rested = False

    def take(self, sample: SampleLine) -> None:
        """One more sample."""
        last, self._last = self._last, sample
        if last is None or sample.seconds <= last.seconds:
            return
        width = sample.seconds - last.seconds
        cpu = sample.cpu_seconds - last.cpu_seconds
        cpu -= sample.own_cpu_seconds - last.own_cpu_seconds
        disk = sample.disk_busy_seconds - last.disk_busy_seconds
        calm = cpu <= self._cpu_level * width and disk <= DISK_SHARE * width
        self._spans.append((last.seconds, sample.seconds, calm))
        wanted = CALM_SECONDS + MARGIN_SECONDS
        while self._spans and sample.seconds - self._spans[0][1] >= wanted:
            self._spans.popleft()
        covered = sample.seconds - self._spans[0][0]
        busy = sum(end - start for start, end, was_calm in self._spans if not was_calm)
        self.rested = (
            covered >= wanted
            and self._spans[0][0] >= self._not_before
            and busy <= SPIKE_SHARE * wanted
        )
