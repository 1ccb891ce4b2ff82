"""Where a trend's picture begins and ends."""

from dataclasses import dataclass

from plucky_ledger.core.trend.trend import Beside, Trend
from plucky_ledger.core.values.axes import Span, with_air


@dataclass(frozen=True)
class Frame:
    """The ends of both axes."""

    time: Span
    """Seconds of the epoch."""
    values: Span
    """In the measure's unit."""


def beside_spans(trend: Trend) -> dict[Beside, Span]:
    """The ends of the small axis of each figure beside the trend."""
    return {
        of: with_air([point.value for point in points], 0.1, 0.03, 0.2) or (0.0, 1.0)
        for of, points in trend.beside.items()
    }


def frame_of(trend: Trend) -> Frame:
    """Room for every boot; there has to be one."""
    points = (*trend.points, *(point for each in trend.beside.values() for point in each))
    times = sorted(point.at.timestamp() for point in points)
    values = with_air([point.value for point in trend.points], 0.08, 0.01, 0.2)
    return Frame((times[0], max(times[-1], times[0] + 1.0)), values or (0.0, 1.0))
