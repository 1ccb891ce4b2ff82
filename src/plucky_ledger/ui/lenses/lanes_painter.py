"""Painting lanes: flags, ruler, the machine, the entries' lanes and the thread of the chain."""

import math
from collections.abc import Callable, Sequence

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QFontMetricsF, QPainter, QPainterPath, QPen

from plucky_ledger.core.boots.stages import WAITS, Stage
from plucky_ledger.core.values.axes import Axis
from plucky_ledger.pages.lanes import ChainLine, Flag, Lane
from plucky_ledger.ui.drawing.silhouette import (
    LaneLine,
    Silhouette,
    draw_held_up,
    draw_pencilled,
    draw_voice,
)
from plucky_ledger.ui.drawing.stamp import draw_stamp
from plucky_ledger.ui.theme import DECISION_COLOURS, Ink, scaled_font
from plucky_ledger.wording.figures import seconds
from plucky_ledger.wording.labels import DECISION_KEYS, label
from plucky_ledger.wording.lanes import lane_cost, lane_name, lane_note, stage_captions
from plucky_ledger.wording.language import say

FLAG_ROWS = 3
AIR = 3.0
"""Pixels between a lane's edge and full height."""
NOTCH = 5.0
SIGN_WIDTH = 16.0


class LanesPainter:
    """Paints the parts of one page of lanes with one axis and one set of colours."""

    def __init__(
        self,
        painter: QPainter,
        axis: Axis,
        colours: Ink,
        width: float,
        lane_height: float,
        quickly: bool,
    ) -> None:
        self._painter = painter
        self._quickly = quickly
        self._axis = axis
        self._colours = colours
        self._width = width
        self._lane_height = lane_height
        self._fonts = {bold: scaled_font(0.94, bold=bold) for bold in (False, True)}
        self._metrics = {bold: QFontMetricsF(font) for bold, font in self._fonts.items()}
        self._small, self._tiny = scaled_font(0.8), scaled_font(0.74)
        self._tiny_metrics = QFontMetricsF(self._tiny)

    def flags(
        self, flags: Sequence[Flag], pencilled: Sequence[Flag], top: float, bottom: float
    ) -> None:
        """Marks as flags in rows that do not overlap, each with its line down to ``bottom``.

        ``pencilled`` are those of what lies over it.
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
            if colour == "pencil":
                sentence = say("{mark}, in pencil", mark=sentence)
            width = metrics.horizontalAdvance(sentence) + 14
            leftwards = x + width > self._width
            begin = x - width if leftwards else x
            free = [row for row in range(FLAG_ROWS) if taken[row] <= begin]
            row = free[0] if free else min(range(FLAG_ROWS), key=taken.__getitem__)
            taken[row] = begin + width + 3
            y = top + row * (height + 2)
            painter.setPen(QPen(self._colours.of(colour), 1, Qt.PenStyle.DotLine))
            painter.drawLine(QPointF(x, y), QPointF(x, bottom))
            painter.setPen(QPen(self._colours.of(colour), 1))
            painter.setBrush(self._colours.of("page"))
            painter.drawPath(_flag_shape(x, y, width, height, leftwards))
            painter.drawText(
                QPointF(begin + (9 if leftwards else 5), y + metrics.ascent()), sentence
            )
        painter.setBrush(Qt.BrushStyle.NoBrush)

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
            left = min(
                max(x - metrics.horizontalAdvance(sentence) / 2, self._axis.left - 20),
                self._axis.right - metrics.horizontalAdvance(sentence),
            )
            painter.drawText(QPointF(left, top + metrics.ascent()), sentence)
        heading = say("costs")
        right = self._width - 4 - metrics.horizontalAdvance(heading)
        painter.setPen(self._colours.of("pencil"))
        painter.drawText(QPointF(right, top + metrics.ascent()), heading)

    def stages(self, stages: Sequence[Stage], top: float, machine: QRectF) -> None:
        """Names of the stages where they fit; the sign-in wait is hatched over the machine."""
        painter = self._painter
        painter.setFont(self._small)
        metrics = QFontMetricsF(self._small)
        for stage in stages:
            box = self._clipped(stage.start, stage.end, top, metrics.height())
            if box is None:
                continue
            waits = stage.kind in WAITS
            if waits:
                hatched = QRectF(box.left(), machine.top(), box.width(), machine.height())
                painter.fillRect(
                    hatched, QBrush(self._colours.of("rule"), Qt.BrushStyle.BDiagPattern)
                )
            for text in stage_captions(stage):
                wide = metrics.horizontalAdvance(text)
                if wide + 4 <= box.width():
                    painter.setPen(self._colours.of("pencil"))
                    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
                    break

    def left_words(self, box: QRectF, name: str, below: str, bold: bool) -> None:
        """A lane's name and what stands under it."""
        painter = self._painter
        font, metrics = self._fonts[bold], self._metrics[bold]
        tall = metrics.height() + (QFontMetricsF(self._small).height() if below else 0.0)
        top = box.center().y() - tall / 2
        painter.setFont(font)
        painter.setPen(self._colours.of("ink"))
        short = metrics.elidedText(name, Qt.TextElideMode.ElideRight, box.width())
        painter.drawText(QPointF(box.left(), top + metrics.ascent()), short)
        if below:
            painter.setFont(self._small)
            painter.setPen(self._colours.of("pencil"))
            small = QFontMetricsF(self._small)
            painter.drawText(QPointF(box.left(), top + metrics.height() + small.ascent()), below)

    def right_words(self, box: QRectF, figure: str, below: str) -> None:
        """A figure with its interval under it, right-aligned."""
        painter = self._painter
        metrics, tiny = self._metrics[True], self._tiny_metrics
        tall = metrics.height() + (tiny.height() if below else 0.0)
        top = box.center().y() - tall / 2
        painter.setFont(self._fonts[True])
        painter.setPen(self._colours.of("ink"))
        x = box.right() - metrics.horizontalAdvance(figure)
        painter.drawText(QPointF(x, top + metrics.ascent()), figure)
        if below:
            painter.setFont(self._tiny)
            painter.setPen(self._colours.of("pencil"))
            x = box.right() - tiny.horizontalAdvance(below)
            painter.drawText(QPointF(x, top + metrics.height() + tiny.ascent()), below)

    def lane(
        self,
        lane: Lane,
        top: float,
        shape: Silhouette | None,
        pencilled: Silhouette | None,
        chosen: bool,
    ) -> None:
        """One entry: its line, its silhouette, and what it costs."""
        painter, axis, height = self._painter, self._axis, self._lane_height
        if chosen:
            painter.fillRect(QRectF(0, top, self._width, height), self._colours.of("wash"))
        line = self.line(top + height / 2, height / 2 - AIR, height / 2 - AIR)
        painter.save()
        painter.setClipRect(QRectF(axis.left, top, axis.right - axis.left, height))
        if shape is not None:
            ground = ""
            if not self._quickly:
                draw_held_up(painter, shape, line, self._colours)
                ground = "wash" if chosen else "page"
            draw_voice(painter, shape, line, self._colours, ground=ground)
        self._base_line(lane, line.y)
        if pencilled is not None:
            draw_pencilled(painter, pencilled, line, self._colours)
        painter.restore()
        left = QRectF(2, top, axis.left - 12, height)
        if lane.decision is not None:
            sign = QRectF(axis.left - 10 - SIGN_WIDTH, top + height / 2 - 8, SIGN_WIDTH, 16)
            colour = self._colours.of(DECISION_COLOURS[lane.decision])
            draw_stamp(painter, sign, DECISION_KEYS[lane.decision], colour, dashed=lane.pencilled)
            left.setRight(sign.left() - 4)
        self.left_words(left, lane_name(lane), "", chosen)
        self.right_words(QRectF(0, top, self._width - 4, height), *lane_cost(lane))
        self._note(lane, line.y)
        painter.setPen(QPen(self._colours.of("faint"), 1))
        painter.drawLine(QPointF(0, top + height), QPointF(self._width, top + height))

    def struck(self, top: float) -> None:
        """A stroke of the pencil through the name of a lane that is not there in pencil."""
        y = top + self._lane_height / 2
        self._painter.setPen(QPen(self._colours.of("pencil"), 1.4, Qt.PenStyle.DashLine))
        self._painter.drawLine(QPointF(0, y), QPointF(self._axis.left - SIGN_WIDTH - 16, y))

    def fine_words(self, box: QRectF, words: Sequence[tuple[str, str, str]]) -> None:
        """Beside the fine lines: what each is, what it reads at its end, and its colour."""
        painter, metrics = self._painter, QFontMetricsF(self._small)
        painter.setFont(self._small)
        left, right = box.left() + 2, self._width - 4.0
        baseline = box.center().y() + metrics.ascent() / 2 - 1
        for title, _reading, colour in words:
            painter.setPen(self._colours.of(colour))
            painter.drawText(QPointF(left, baseline), title)
            left += metrics.horizontalAdvance(title) + 8
        for _title, reading, colour in reversed(words):
            right -= metrics.horizontalAdvance(reading)
            painter.setPen(self._colours.of(colour))
            painter.drawText(QPointF(right, baseline), reading)
            right -= 8

    def line(self, y: float, up: float, down: float) -> LaneLine:
        """A lane's line at a height."""
        return LaneLine(self._axis.place(0.0), self._axis.per_unit, y, up, down)

    def _base_line(self, lane: Lane, y: float) -> None:
        """Dotted while it waits for an ordering, bare while for the clock; thin while it lives."""
        painter, ink = self._painter, self._colours.of("ink")
        if lane.waiting and lane.ordered:
            self._along(lane.waiting, y, QPen(ink, 1.4, Qt.PenStyle.DotLine))
        if lane.starting:
            self._along(lane.starting, y, QPen(ink, 1.6))
        if lane.running:
            self._along(lane.running, y, QPen(self._colours.of("pencil"), 0.8))
            x = self._axis.place(lane.running[0])
            painter.setPen(QPen(ink, 1.6))
            painter.drawLine(QPointF(x, y - NOTCH), QPointF(x, y + NOTCH))

    def _along(self, span: tuple[float, float], y: float, pen: QPen) -> None:
        box = self._clipped(*span, y, 0)
        if box is not None:
            self._painter.setPen(pen)
            self._painter.drawLine(box.topLeft(), box.topRight())

    def chain(
        self,
        chain: ChainLine,
        middle_of: Callable[[str], float | None],
        between: tuple[float, float],
    ) -> None:
        """The chain as one thread of ink: along each lane, down or up to the next.

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
            path.lineTo(axis.place(chain.until), between[0])
        if path.isEmpty():
            return
        painter.setPen(QPen(self._colours.of("ink"), 1.9))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(path)

    def _note(self, lane: Lane, y: float) -> None:
        """Why there is nothing to draw."""
        if not (note := lane_note(lane)):
            return
        painter, font = self._painter, scaled_font(0.84)
        font.setItalic(True)
        metrics = QFontMetricsF(font)
        painter.setFont(font)
        painter.setPen(self._colours.of("pencil"))
        x = max(self._axis.left, self._axis.place((lane.starting or (0.0, 0.0))[1]) + 6)
        wide = metrics.horizontalAdvance(note)
        x = max(self._axis.left + 4, min(x, self._axis.right - wide))
        painter.fillRect(
            QRectF(x - 2, y - metrics.height() / 2, wide + 4, metrics.height()),
            self._colours.of("page"),
        )
        painter.drawText(QPointF(x, y + metrics.ascent() / 2 - 1), note)

    def _clipped(self, start: float, end: float, top: float, height: float) -> QRectF | None:
        """The box of a span, cut at the axis; None when it lies outside."""
        left = max(self._axis.place(start), self._axis.left)
        right = min(self._axis.place(end), self._axis.right)
        return QRectF(left, top, right - left, height) if right >= left else None


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
