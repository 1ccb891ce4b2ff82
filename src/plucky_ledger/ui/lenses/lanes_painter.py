"""Painting a timeline: flags, ruler, stage band, curves and lanes, on any painter."""

import math
from collections.abc import Callable, Sequence

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QFontMetricsF, QPainter, QPainterPath, QPen, QTransform

from plucky_ledger.core.axes import Axis
from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.core.boots.stages import Stage, StageKind
from plucky_ledger.pages.lanes import ChainLine, Flag, Lane, Strip
from plucky_ledger.ui.theme import Ink, scaled_font
from plucky_ledger.wording.figures import seconds
from plucky_ledger.wording.labels import label
from plucky_ledger.wording.lanes import (
    band_captions,
    lane_cost,
    lane_name,
    lane_note,
    strip_caption,
    strip_title,
)
from plucky_ledger.wording.language import say

FLAG_ROWS = 3
STRIP_HEIGHT = 40
BAND_HEIGHT = 22
MOST_LANE_HEIGHT, LEAST_LANE_HEIGHT = 26, 18
"""Lanes are as high as the room allows, within these."""


def curve(strip: Strip) -> QPainterPath:
    """The strip's steps as an area in seconds and share of full height (0 to 1, upwards)."""
    path = QPainterPath()
    open_ = False
    for start, end, height in zip(strip.edges, strip.edges[1:], strip.heights, strict=False):
        if math.isnan(height):
            if open_:
                path.lineTo(start, 0.0)
            open_ = False
            continue
        if not open_:
            path.moveTo(start, 0.0)
        path.lineTo(start, height)
        path.lineTo(end, height)
        open_ = True
    if open_:
        path.lineTo(strip.edges[-1], 0.0)
    return path


class LanesPainter:
    """Paints the parts of one page of lanes with one axis and one set of colours."""

    def __init__(
        self, painter: QPainter, axis: Axis, colours: Ink, width: float, lane_height: int
    ) -> None:
        self._painter = painter
        self._axis = axis
        self._colours = colours
        self._width = width
        self._lane_height = lane_height
        self._font = scaled_font(0.88)
        self._small = scaled_font(0.8)

    def flags(
        self, flags: Sequence[Flag], pencilled: Sequence[Flag], top: float, bottom: float
    ) -> None:
        """Marks as flags in rows that do not overlap, each with its line down to ``bottom``.

        ``pencilled`` are those of what lies behind.
        """
        painter, axis = self._painter, self._axis
        painter.setFont(self._small)
        metrics = QFontMetricsF(self._small)
        height = metrics.height() + 1
        taken = [-math.inf] * FLAG_ROWS
        both = [*((flag, "ink") for flag in flags), *((flag, "pencil") for flag in pencilled)]
        for flag, colour in sorted(both, key=lambda pair: pair[0].seconds):
            x = axis.place(flag.seconds)
            if not axis.left - 1 <= x <= axis.right + 1:
                continue
            sentence = label(flag.mark)
            width = metrics.horizontalAdvance(sentence) + 14
            leftwards = x + width > self._width
            begin = x - width if leftwards else x
            free = [row for row in range(FLAG_ROWS) if taken[row] <= begin]
            row = free[0] if free else min(range(FLAG_ROWS), key=taken.__getitem__)
            taken[row] = begin + width + 3
            y = top + row * (height + 2)
            painter.setPen(QPen(self._colours.of(colour), 1, Qt.PenStyle.DashLine))
            painter.drawLine(QPointF(x, y), QPointF(x, bottom))
            painter.setPen(QPen(self._colours.of(colour), 1))
            painter.setBrush(self._colours.of("page"))
            painter.drawPath(_flag_shape(x, y, width, height, leftwards))
            painter.drawText(QPointF(begin + (9 if leftwards else 5), y + metrics.ascent()),
                             sentence)  # fmt: skip
        painter.setBrush(Qt.BrushStyle.NoBrush)

    @property
    def flags_height(self) -> float:
        """Height all flag rows take."""
        return FLAG_ROWS * (QFontMetricsF(self._small).height() + 3) + 2

    def ruler(self, top: float, bottom: float) -> None:
        """Seconds along the top and faint lines down to ``bottom``."""
        painter = self._painter
        painter.setFont(self._small)
        metrics = QFontMetricsF(self._small)
        ticks, digits = self._axis.ticks()
        for instant in ticks:
            x, sentence = self._axis.place(instant), seconds(instant, digits)
            painter.setPen(QPen(self._colours.of("faint"), 1))
            painter.drawLine(QPointF(x, top + metrics.height()), QPointF(x, bottom))
            painter.setPen(self._colours.of("pencil"))
            left = min(max(x - metrics.horizontalAdvance(sentence) / 2, self._axis.left - 20),
                       self._axis.right - metrics.horizontalAdvance(sentence))  # fmt: skip
            painter.drawText(QPointF(left, top + metrics.ascent()), sentence)
        heading = say("costs")
        right = self._width - 4 - metrics.horizontalAdvance(heading)
        painter.setPen(self._colours.of("pencil"))
        painter.drawText(QPointF(right, top + metrics.ascent()), heading)

    def bands(self, bands: Sequence[Stage], top: float) -> None:
        """The stage band; the sign-in wait is hatched and says that it is not charged."""
        painter = self._painter
        painter.setFont(self._font)
        metrics = QFontMetricsF(self._font)
        for index, band in enumerate(bands):
            box = self._clipped(band.start, band.end, top, BAND_HEIGHT)
            if box is None:
                continue
            not_charged = band.kind is StageKind.SIGN_IN_WAIT
            shade = "page" if not_charged else ("paper", "faint")[index % 2]
            painter.setPen(QPen(self._colours.of("rule"), 1))
            painter.setBrush(self._colours.of(shade))
            painter.drawRect(box)
            if not_charged:
                painter.setBrush(QBrush(self._colours.of("rule"), Qt.BrushStyle.BDiagPattern))
                painter.drawRect(box)
            for text in band_captions(band):
                wide = metrics.horizontalAdvance(text)
                if wide + 6 <= box.width():
                    place = QRectF(box.center().x() - wide / 2 - 2, top + 3, wide + 4,
                                   BAND_HEIGHT - 6)  # fmt: skip
                    if not_charged:
                        painter.fillRect(place, self._colours.of("page"))
                    painter.setPen(self._colours.of("ink"))
                    painter.drawText(place, Qt.AlignmentFlag.AlignCenter, text)
                    break
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def strip(
        self, strip: Strip, path: QPainterPath, top: float, behind: QPainterPath | None
    ) -> None:
        """One curve with its title in the margin; ``behind`` is drawn as an outline."""
        painter, axis = self._painter, self._axis
        colour = self._colours.of(strip.kind)
        painter.setPen(colour)
        painter.setFont(scaled_font(0.88, bold=True))
        painter.drawText(QPointF(2, top + 14), strip_title(strip.kind))
        painter.setPen(self._colours.of("pencil"))
        painter.setFont(self._small)
        painter.drawText(
            QPointF(2, top + 14 + QFontMetricsF(self._small).height()), strip_caption(strip)
        )
        base = top + STRIP_HEIGHT - 4
        painter.save()
        painter.setClipRect(QRectF(axis.left, top - 2, axis.right - axis.left, STRIP_HEIGHT))
        painter.setTransform(
            QTransform(axis.per_unit, 0, 0, -(STRIP_HEIGHT - 6), axis.place(0.0), base), True
        )
        # Steps are upright and level: smoothing them would cost much and show nothing.
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, on=False)
        fill = QColor(colour)
        fill.setAlpha(56)
        painter.setPen(_cosmetic(colour, 1))
        painter.setBrush(fill)
        painter.drawPath(path)
        if behind is not None:
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(_cosmetic(self._colours.of("pencil"), 1))
            painter.drawPath(behind)
        painter.restore()
        painter.setPen(QPen(self._colours.of("rule"), 1))
        painter.drawLine(QPointF(axis.left, base), QPointF(axis.right, base))

    def lane(self, lane: Lane, top: float, behind: Lane | None) -> None:
        """One entry: hollow while it waits, solid while it starts, thin while it runs on."""
        painter, axis = self._painter, self._axis
        ink, middle = self._colours.of("ink"), top + self._lane_height / 2
        painter.setFont(self._font)
        metrics = QFontMetricsF(self._font)
        painter.setPen(self._colours.of("pencil" if lane.part_of_system else "ink"))
        name = metrics.elidedText(lane_name(lane), Qt.TextElideMode.ElideRight, axis.left - 14)
        painter.drawText(QPointF(2, middle + metrics.ascent() / 2 - 1), name)
        if lane.running and (box := self._clipped(*lane.running, middle, 0)):
            painter.setPen(QPen(self._colours.of("pencil"), 1.2))
            painter.drawLine(box.topLeft(), box.topRight())
        if lane.waiting and (box := self._clipped(*lane.waiting, middle - 5, 10)):
            painter.setPen(QPen(ink, 1.2))
            painter.setBrush(self._colours.of("page"))
            painter.drawRect(box)
        if lane.starting and (box := self._clipped(*lane.starting, middle - 5, 10)):
            solid = QColor(ink)
            solid.setAlpha(190)
            painter.fillRect(box.adjusted(0, 0, max(0.0, 1.5 - box.width()), 0), solid)
        if behind and behind.starting and (box := self._clipped(*behind.starting, middle - 8, 16)):
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(self._colours.of("pencil"), 1.2))
            painter.drawRect(box)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        self._beside(lane, middle, metrics)
        painter.setPen(QPen(self._colours.of("faint"), 1))
        bottom = top + self._lane_height
        painter.drawLine(QPointF(0, bottom), QPointF(self._width, bottom))

    def chain(
        self,
        chain: ChainLine,
        middle_of: Callable[[str], float | None],
        between: tuple[float, float],
    ) -> None:
        """A chain as one continuous line: along each bar, down or up to the next.

        Links whose lanes lie out of sight ``between`` top and bottom are not painted.
        """
        painter, axis = self._painter, self._axis
        path = QPainterPath()
        last: QPointF | None = None
        for link in chain.links:
            y = middle_of(link.entry_id)
            if y is None:
                continue
            begin, end = QPointF(axis.place(link.start), y), QPointF(axis.place(link.end), y)
            near = [at for at in (last, begin) if at is not None]
            if any(between[0] - 40 <= at.y() <= between[1] + 40 for at in near):
                path.moveTo(near[0])
                path.lineTo(begin)
                path.lineTo(end)
            last = end
        if last is not None:
            path.moveTo(last)
            path.lineTo(axis.place(chain.until), between[1])
        if path.isEmpty():
            return
        colour = self._colours.of("lost" if chain.mark is Mark.SETTLED else "disk")
        line = Qt.PenStyle.SolidLine if chain.mark is Mark.SETTLED else Qt.PenStyle.DotLine
        painter.setPen(QPen(colour, 2.0, line))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(path)

    def highlight(self, top: float) -> None:
        """The wash behind a lane that was found."""
        box = QRectF(0, top, self._width, self._lane_height)
        self._painter.fillRect(box, self._colours.of("wash"))

    def _beside(self, lane: Lane, middle: float, metrics: QFontMetricsF) -> None:
        """Note and the seconds it costs."""
        painter, cost, note = self._painter, lane_cost(lane), lane_note(lane)
        baseline = middle + metrics.ascent() / 2 - 1
        painter.setPen(self._colours.of("ink"))
        painter.drawText(QPointF(self._width - 4 - metrics.horizontalAdvance(cost), baseline), cost)
        if note:
            font = scaled_font(0.84)
            font.setItalic(True)
            painter.setFont(font)
            painter.setPen(self._colours.of("pencil"))
            x = max(self._axis.left, self._axis.place((lane.starting or (0.0, 0.0))[1]) + 6)
            wide = QFontMetricsF(font).horizontalAdvance(note)
            x = max(self._axis.left + 4, min(x, self._axis.right - wide))
            painter.drawText(QPointF(x, baseline), note)

    def _clipped(self, start: float, end: float, top: float, height: float) -> QRectF | None:
        """The box of a span, cut at the axis; None when it lies outside."""
        left = max(self._axis.place(start), self._axis.left)
        right = min(self._axis.place(end), self._axis.right)
        return QRectF(left, top, right - left, height) if right >= left else None


def _cosmetic(colour: QColor, width: float) -> QPen:
    pen = QPen(colour, width)
    pen.setCosmetic(True)
    return pen


def _flag_shape(x: float, y: float, width: float, height: float, leftwards: bool) -> QPainterPath:
    """A pennant with a notch at its fly end."""
    sign = -1 if leftwards else 1
    path = QPainterPath(QPointF(x, y))
    path.lineTo(x + sign * width, y)
    path.lineTo(x + sign * (width - 5), y + height / 2)
    path.lineTo(x + sign * width, y + height)
    path.lineTo(x, y + height)
    path.closeSubpath()
    return path
