"""A PC's boots on an axis of calendar time, with the levels they went at and the steps between."""

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from plucky_ledger.core.trend.trend import Trend
from plucky_ledger.core.values.axes import Axis, Span
from plucky_ledger.pages.trend import beside_spans, frame_of
from plucky_ledger.ui.accessible.picture import Picture
from plucky_ledger.ui.theme import ink, scaled_font
from plucky_ledger.wording.figures import day, plain
from plucky_ledger.wording.language import say
from plucky_ledger.wording.spoken import SpokenRow
from plucky_ledger.wording.trend import beside_figure, beside_in_words, spoken_trend

HEIGHT = 230
BESIDE_HEIGHT = 52
"""Of each figure that is shown beside it."""
DOT = 3.0
BOTTOM = 24.0


class TrendPicture(Picture, QWidget):
    """One ring a boot, a bar a level, a shaded stretch where a step may have been."""

    def __init__(self, trend: Trend) -> None:
        super().__init__()
        self._trend = trend
        self.setAccessibleName(say("The boots over time"))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFixedHeight(HEIGHT + BESIDE_HEIGHT * len(trend.beside))

    def spoken_rows(self) -> Sequence[SpokenRow]:
        return spoken_trend(self._trend)

    def sizeHint(self) -> QSize:
        return QSize(600, self.height())

    def paintEvent(self, _event: QPaintEvent) -> None:
        trend = self._trend
        if not trend.points:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(scaled_font(0.85))
        left = self._left(painter)
        box = QRectF(left, 6, self.width() - left - 8, HEIGHT - BOTTOM - 8)
        frame = frame_of(trend)
        along = Axis(*frame.time, box.left() + 6, box.right() - 6)
        up = Axis(*frame.values, box.bottom(), box.top())
        self._draw_ruler(painter, box, frame.values)
        self._draw_dates(painter, box, along)
        self._draw_steps(painter, box, along)
        self._draw_beside(painter, box, along)
        colours = ink()
        painter.setPen(QPen(colours.of("ink"), 1.2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for point in trend.points:
            at = QPointF(along.place(point.at.timestamp()), up.place(point.value))
            painter.drawEllipse(at, DOT, DOT)
        painter.setPen(QPen(colours.of("saved"), 2.4))
        for level in trend.levels:
            y = up.place(level.value)
            ends = (level.begin.timestamp(), level.end.timestamp())
            painter.drawLine(QPointF(along.place(ends[0]), y), QPointF(along.place(ends[1]), y))

    def _left(self, painter: QPainter) -> float:
        """Room at the left for the widest figure."""
        beside = (beside_figure(of, points[-1].value) for of, points in self._trend.beside.items())
        highest = plain(frame_of(self._trend).values[1], self._trend.measure)
        return 10.0 + max(map(painter.fontMetrics().horizontalAdvance, (highest, *beside)))

    def _draw_ruler(self, painter: QPainter, box: QRectF, values: Span) -> None:
        """Round figures of the measure."""
        height = Axis(*values, 0.0, box.height())
        for value in height.ticks(44.0)[0]:
            y = box.bottom() - height.place(value)
            painter.setPen(QPen(ink().of("faint"), 1))
            painter.drawLine(QPointF(box.left(), y), QPointF(box.right(), y))
            painter.setPen(ink().of("pencil"))
            words = QRectF(0, y - 9, box.left() - 6, 18)
            right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
            painter.drawText(words, right, plain(value, self._trend.measure))

    def _draw_dates(self, painter: QPainter, box: QRectF, along: Axis) -> None:
        """The first and the last day, and what fits between them."""
        painter.setPen(ink().of("pencil"))
        points, free_from = self._trend.points, box.left()
        below = box.bottom() + 4
        last = day(points[-1].at)
        width = painter.fontMetrics().horizontalAdvance(last) + 8.0
        painter.drawText(QPointF(box.right() - width + 8, below + 14), last)
        for point in points:
            text = day(point.at)
            x = along.place(point.at.timestamp())
            needed = painter.fontMetrics().horizontalAdvance(text)
            if x >= free_from and x + needed < box.right() - width - 10:
                painter.drawText(QPointF(x, below + 14), text)
                free_from = x + needed + 60

    def _draw_steps(self, painter: QPainter, box: QRectF, along: Axis) -> None:
        for step in self._trend.steps:
            begin = along.place(step.earliest.timestamp())
            end = along.place(step.latest.timestamp())
            shade = ink().of("lost" if step.by > 0 else "saved")
            shade.setAlpha(38)
            painter.fillRect(QRectF(begin, box.top(), max(end - begin, 2.0), box.height()), shade)

    def _draw_beside(self, painter: QPainter, box: QRectF, along: Axis) -> None:
        """Fine lines below, on the same time: each with its name, and its first and last figure."""
        colours = ink()
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        for row, (of, span) in enumerate(beside_spans(self._trend).items()):
            points = self._trend.beside[of]
            top = box.bottom() + BOTTOM + row * BESIDE_HEIGHT + 4
            words = painter.fontMetrics().height()
            strip = QRectF(box.left(), top + words + 3, box.width(), BESIDE_HEIGHT - words - 10)
            up = Axis(*span, strip.bottom(), strip.top())
            painter.setPen(colours.of("pencil"))
            name = QRectF(box.left(), top, box.width(), words)
            painter.drawText(name, Qt.AlignmentFlag.AlignVCenter, beside_in_words(of, points))
            painter.drawText(
                QRectF(0, strip.top() - 2, box.left() - 6, strip.height() + 4),
                right,
                beside_figure(of, points[-1].value),
            )
            painter.setPen(QPen(colours.of("ink"), 1.2))
            places = [
                QPointF(along.place(point.at.timestamp()), up.place(point.value))
                for point in points
            ]
            painter.drawPolyline(places)
            painter.setBrush(colours.of("ink"))
            for place in places:
                painter.drawEllipse(place, 1.6, 1.6)
            painter.setBrush(Qt.BrushStyle.NoBrush)
