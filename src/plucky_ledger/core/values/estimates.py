"""Estimates: a figure in seconds with its interval."""

from dataclasses import dataclass

WIDEST = 1.5
"""Widest interval of a length of time by which anything can be planned, as a share of it."""


@dataclass(frozen=True)
class Estimate:
    """A figure with its 95 % interval, in seconds."""

    value: float
    low: float
    high: float

    @property
    def too_wide(self) -> bool:
        """For a length of time: nothing can be planned by it, its interval is so much wider."""
        return self.high - max(0.0, self.low) > WIDEST * self.value

    def moved_to(self, value: float) -> "Estimate":
        """The same about another figure."""
        return Estimate(value, value + (self.low - self.value), value + (self.high - self.value))
