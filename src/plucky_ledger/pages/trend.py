"""Where a trend's picture begins and ends."""

from dataclasses import dataclass

from plucky_ledger.core.axes import Span, with_air
from plucky_ledger.core.trend.trend import Trend


@dataclass(frozen=True)
class Frame:
    """The ends of both axes."""

    time: Span
    """Seconds of the epoch."""
    values: Span
    """In the measure's unit."""


def frame_of(trend: Trend) -> Frame:
    """Room for every boot; there has to be one."""
    times = [point.at.timestamp() for point in trend.points]
    values = with_air([point.value for point in trend.points], 0.08, 0.01, 0.2)
    return Frame((times[0], max(times[-1], times[0] + 1.0)), values or (0.0, 1.0))
