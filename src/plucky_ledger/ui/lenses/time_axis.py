"""The time axis all lanes share: where a second lies on the screen."""

import math
from dataclasses import dataclass


@dataclass(frozen=True)
class TimeAxis:
    """Maps seconds to pixels. ``start`` and ``end`` are the seconds at both edges."""

    start: float
    end: float
    left: float
    right: float

    @property
    def pixels_per_second(self) -> float:
        return (self.right - self.left) / (self.end - self.start)

    def x(self, seconds: float) -> float:
        """Where an instant lies."""
        return self.left + (seconds - self.start) * self.pixels_per_second

    def seconds(self, x: float) -> float:
        """Which instant lies at a pixel."""
        return self.start + (x - self.left) / self.pixels_per_second

    def ticks(self, apart: float = 60.0) -> list[tuple[float, str]]:
        """Instants with their labels, at least ``apart`` pixels from each other."""
        step = _nice_step(apart / self.pixels_per_second)
        first = math.ceil(self.start / step) * step
        count = int((self.end - first) / step) + 1
        digits = max(0, -math.floor(math.log10(step)))
        instants = [first + step * index for index in range(max(0, count))]
        return [(instant, f"{instant + 0.0:.{digits}f} s") for instant in instants]


def _nice_step(least: float) -> float:
    """Smallest of 1, 2, 5 times a power of ten that is not below ``least``."""
    power = 10.0 ** math.floor(math.log10(least))
    return next(factor * power for factor in (1, 2, 5, 10) if factor * power >= least * 0.999)


def zoomed(
    view: tuple[float, float], whole: tuple[float, float], about: float, factor: float
) -> tuple[float, float]:
    """The view after zooming by ``factor`` about an instant, kept within the whole."""
    start, end = view
    length = min(max((end - start) / factor, 0.2), whole[1] - whole[0])
    share = (about - start) / (end - start)
    return within((about - share * length, about + (1 - share) * length), whole)


def within(view: tuple[float, float], whole: tuple[float, float]) -> tuple[float, float]:
    """The view moved so that it does not leave the whole."""
    start, end = view
    length = min(end - start, whole[1] - whole[0])
    start = min(max(start, whole[0]), whole[1] - length)
    return (start, start + length)
