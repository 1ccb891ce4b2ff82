"""Axes: where a value lies between two edges, how a view is zoomed, and where ticks stand."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

Span = tuple[float, float]
"""Lower and upper end."""
LEAST_SECONDS = 0.2
"""As close as a view of time can be zoomed."""


@dataclass(frozen=True)
class Axis:
    """Maps values to places. ``start`` and ``end`` are the values at the edges."""

    start: float
    end: float
    left: float
    right: float

    @property
    def per_unit(self) -> float:
        """How far apart two values lie that differ by one."""
        return (self.right - self.left) / (self.end - self.start) if self.end > self.start else 0.0

    def place(self, value: float) -> float:
        """Where a value lies."""
        return self.left + (value - self.start) * self.per_unit

    def value(self, place: float) -> float:
        """Which value lies at a place, between the edges' own."""
        return self.start + (place - self.left) / self.per_unit if self.per_unit else self.start

    def ticks(self, apart: float = 60.0) -> tuple[list[float], int]:
        """Round values at least ``apart`` from each other, and how many decimals they need."""
        step = _nice_step(apart / self.per_unit)
        first = math.ceil(self.start / step) * step
        count = math.floor((self.end - first) / step) + 1
        digits = max(0, -math.floor(math.log10(step)))
        return [first + step * index + 0.0 for index in range(max(0, count))], digits


def _nice_step(least: float) -> float:
    """Smallest of 1, 2, 5 times a power of ten that is not below ``least``."""
    power = 10.0 ** math.floor(math.log10(least))
    return next(factor * power for factor in (1, 2, 5, 10) if factor * power >= least * 0.999)


def zoomed(view: Span, whole: Span, about: float, factor: float) -> Span:
    """The view after zooming by ``factor`` about a value, kept within the whole."""
    start, end = view
    length = min(max((end - start) / factor, LEAST_SECONDS), whole[1] - whole[0])
    share = (about - start) / (end - start)
    return within((about - share * length, about + (1 - share) * length), whole)


def within(view: Span, whole: Span) -> Span:
    """The view moved so that it does not leave the whole."""
    start, end = view
    length = min(end - start, whole[1] - whole[0])
    start = min(max(start, whole[0]), whole[1] - length)
    return (start, start + length)


def with_air(values: Sequence[float], share: float, of_largest: float, least: float) -> Span | None:
    """Ends of an axis that holds all values with a little air; None without any.

    The air is the largest of a share of what they differ by, a share of the largest, and ``least``.
    """
    if not values:
        return None
    low, high = min(values), max(values)
    air = max((high - low) * share, abs(high) * of_largest, least)
    return (low - air, high + air)
