"""A voice as a silhouette: CPU work above the line, the drive's time mirrored below it.

Shapes are made once, in seconds and shares of full height, and brought to their place on the sheet
whenever it is painted.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QBrush, QPainter, QPainterPath, QPen, QPolygonF, QTransform

from plucky_ledger.core.boots.samples import Floats
from plucky_ledger.core.replay.voices import Voice
from plucky_ledger.pages.curves import Strip
from plucky_ledger.ui.theme import Ink

LEAST = 0.03
"""Share of full height below which nothing is drawn."""
FINE_POINTS = 600
FILLED, PALE, HATCHED = 165, 62, 120
"""How opaque a silhouette is: of a lane, of the machine behind the chosen one, of what was held
up."""


@dataclass(frozen=True, eq=False)
class Silhouette:
    """The shapes of one voice; each is made when it is first painted."""

    voice: Voice
    edges: Floats
    cores: float
    """Cores that full height means."""

    @cached_property
    def cpu(self) -> QPainterPath:
        """CPU work, upwards."""
        return _area(self.edges, self.voice.cpu / self.cores)

    @cached_property
    def drive(self) -> QPainterPath:
        """The drive's time, downwards."""
        return _area(self.edges, -self.voice.drive)

    @cached_property
    def cpu_wanted(self) -> QPainterPath:
        """What it would have computed."""
        return _area(self.edges, self.voice.cpu_wanted / self.cores)

    @cached_property
    def drive_wanted(self) -> QPainterPath:
        """What it would have moved."""
        return _area(self.edges, -self.voice.drive_wanted)


def _area(edges: Floats, heights: Floats) -> QPainterPath:
    """From the middle of each step to the next, along the line where there is nothing."""
    heights = np.clip(heights, -1.0, 1.0)
    busy = np.abs(heights) >= LEAST
    path = QPainterPath()
    if not busy.any():
        return path
    middles = (edges[:-1] + edges[1:]) / 2
    turns = np.flatnonzero(np.diff(np.concatenate(([False], busy, [False])).astype(np.int8)))
    for first, beyond in zip(turns[::2].tolist(), turns[1::2].tolist(), strict=True):
        points = [
            QPointF(edges[first], 0.0),
            *map(QPointF, middles[first:beyond].tolist(), heights[first:beyond].tolist()),
            QPointF(edges[beyond], 0.0),
        ]
        path.addPolygon(QPolygonF(points))
        path.closeSubpath()
    return path


def fine_line(strip: Strip) -> QPainterPath:
    """A curve as one line, in seconds and shares of full height."""
    step = max(1, len(strip.heights) // FINE_POINTS)
    heights = np.nan_to_num(strip.heights[::step]).tolist()
    path = QPainterPath()
    path.addPolygon(QPolygonF(list(map(QPointF, strip.edges[1::step].tolist(), heights))))
    return path


@dataclass(frozen=True)
class LaneLine:
    """A lane's line on the sheet."""

    seconds_at: float
    """Where second 0 lies, in pixels."""
    per_second: float
    y: float
    up: float
    """Pixels of full height above it."""
    down: float
    """Pixels of full height below it."""

    def placed(self, cpu: QPainterPath, drive: QPainterPath) -> Iterator[tuple[QPainterPath, str]]:
        """Shapes above and below the line, with the names of their colours; what is empty is
        left out.
        """
        for path, height, name in ((cpu, self.up, "cpu"), (drive, self.down, "disk")):
            if not path.isEmpty():
                place = QTransform(self.per_second, 0, 0, -height, self.seconds_at, self.y)
                yield place.map(path), name


def draw_voice(
    painter: QPainter,
    shape: Silhouette,
    line: LaneLine,
    colours: Ink,
    opaque: int = FILLED,
    ground: str = "",
) -> None:
    """A voice as it was; on the ``ground``'s colour where something hatched lies below."""
    for path, name in line.placed(shape.cpu, shape.drive):
        colour, fill = colours.of(name), colours.of(name)
        fill.setAlpha(opaque)
        if opaque < FILLED:
            colour.setAlpha(130)
        if ground:
            painter.fillPath(path, colours.of(ground))
        painter.setPen(QPen(colour, 1))
        painter.setBrush(fill)
        painter.drawPath(path)
    painter.setBrush(Qt.BrushStyle.NoBrush)


def draw_held_up(painter: QPainter, shape: Silhouette, line: LaneLine, colours: Ink) -> None:
    """What it would have done if nobody else had wanted cores or drive, hatched."""
    painter.setPen(Qt.PenStyle.NoPen)
    for path, name in line.placed(shape.cpu_wanted, shape.drive_wanted):
        colour = colours.of(name)
        colour.setAlpha(HATCHED)
        painter.setBrush(QBrush(colour, Qt.BrushStyle.BDiagPattern))
        painter.drawPath(path)
    painter.setBrush(Qt.BrushStyle.NoBrush)


def draw_pencilled(painter: QPainter, shape: Silhouette, line: LaneLine, colours: Ink) -> None:
    """A voice in pencil: its outline alone."""
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(colours.of("pencil"), 1.3, Qt.PenStyle.DashLine))
    for path, _name in line.placed(shape.cpu, shape.drive):
        painter.drawPath(path)
