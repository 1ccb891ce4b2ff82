"""Pressure stall information of a simulated control group, as a kernel would account it."""

from collections import Counter, defaultdict


class HeldUp:
    """How long some work of each control group was held up."""

    def __init__(self) -> None:
        self.seconds: defaultdict[str, float] = defaultdict(float)
        self._waiting: Counter[str] = Counter()
        self._since: dict[str, float] = {}

    def begin(self, group: str, now: float) -> None:
        """One more of the group waits."""
        if not self._waiting[group]:
            self._since[group] = now
        self._waiting[group] += 1

    def until(self, group: str, now: float) -> float:
        """Seconds up to now, with what still goes on."""
        waits = now - self._since[group] if self._waiting[group] else 0.0
        return self.seconds[group] + waits

    def end(self, group: str, now: float) -> None:
        """One waits no longer."""
        self._waiting[group] -= 1
        if not self._waiting[group]:
            self.seconds[group] += now - self._since[group]
