"""A small curve on which a span of time is chosen with the mouse or the arrow keys."""

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QFocusEvent,
    QFontMetrics,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
)
from PySide6.QtWidgets import QWidget

from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.core.values.axes import Axis
from plucky_ledger.ui.accessible.picture import Picture
from plucky_ledger.ui.text import explain
from plucky_ledger.ui.theme import ink, scaled_font
from plucky_ledger.wording.figures import between, number, seconds
from plucky_ledger.wording.labels import label
from plucky_ledger.wording.language import say
from plucky_ledger.wording.spoken import SpokenRow

HEIGHT = 54
STEP_SECONDS = 1.0
LEAST_SECONDS = 0.5


class SpanBrush(Picture, QWidget):
    """CPU share over the boot, and the span looked at.

    Signals:
        chosen(float, float): a span was brushed, in seconds.
    """

    chosen = Signal(float, float)

    def __init__(self) -> None:
        super().__init__()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(say("Time span shown"))
        explain(
            self,
            say("Drag to choose a time span; arrow keys move it, Shift+arrow keys move its end"),
        )
        self.setCursor(Qt.CursorShape.SplitHCursor)
        self._curve: tuple[tuple[float, float], ...] = ()
        self._settled: float | None = None
        self.span = (0.0, 1.0)
        self._from: float | None = None

    def spoken_rows(self) -> Sequence[SpokenRow]:
        start, end = self.span
        shown = SpokenRow(between(seconds(start, 0), seconds(end, 0)))
        if self._settled is None:
            return (shown,)
        return shown, SpokenRow(label(Mark.SETTLED), (seconds(self._settled),))

    def sizeHint(self) -> QSize:
        return QSize(400, HEIGHT)

    def minimumSizeHint(self) -> QSize:
        return QSize(120, HEIGHT)

    def show_curve(
        self,
        curve: tuple[tuple[float, float], ...],
        span: tuple[float, float],
        settled: float | None,
    ) -> None:
        """Show another boot's curve, or another span."""
        self._curve, self.span, self._settled = curve, span, settled
        self.update()

    @property
    def _end(self) -> float:
        return max(self._curve[-1][0] if self._curve else 1.0, 1.0)

    @property
    def _axis(self) -> Axis:
        return Axis(0.0, self._end, 2.0, max(self.width() - 2.0, 3.0))

    def _x(self, instant: float) -> float:
        return self._axis.place(instant)

    def _seconds(self, x: float) -> float:
        return min(max(self._axis.value(x), 0.0), self._end)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        colours = ink()
        font = scaled_font(0.78)
        base = self.height() - QFontMetrics(font).height() - 2.0
        left, right = self._x(self.span[0]), self._x(self.span[1])
        painter.fillRect(QRectF(left, 0, right - left, base), colours.of("wash"))
        points = [QPointF(self._x(s), base - share * (base - 3)) for s, share in self._curve]
        if points:
            ends = QPointF(points[0].x(), base), QPointF(points[-1].x(), base)
            filled = QPolygonF([ends[0], *points, ends[1]])
            shade = colours.of("cpu")
            shade.setAlpha(70)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(shade)
            painter.drawPolygon(filled)
            painter.setPen(QPen(colours.of("cpu"), 1.2))
            painter.drawPolyline(QPolygonF(points))
        painter.setPen(QPen(colours.of("saved" if self.hasFocus() else "ink"), 1.6))
        for x in (left, right):
            painter.drawLine(QPointF(x, 0), QPointF(x, base))
        painter.setPen(QPen(colours.of("rule"), 1))
        painter.drawLine(QPointF(0, base), QPointF(self.width(), base))
        self._write(painter, base)

    def _write(self, painter: QPainter, base: float) -> None:
        painter.setFont(scaled_font(0.78))
        painter.setPen(ink().of("pencil"))
        foot = QRectF(2, base, self.width() - 4.0, self.height() - base)
        start, end = self.span
        painter.drawText(
            foot, Qt.AlignmentFlag.AlignLeft, f"CPU · {between(number(start), seconds(end, 0))}"
        )
        painter.drawText(foot, Qt.AlignmentFlag.AlignRight, seconds(self._end, 0))
        if self._settled is not None:
            x = self._x(self._settled)
            painter.drawText(QPointF(x + 4, base - 6), label(Mark.SETTLED))
            painter.setPen(QPen(ink().of("ink"), 1, Qt.PenStyle.DashLine))
            painter.drawLine(QPointF(x, 0), QPointF(x, base))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._from = self._seconds(event.position().x())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._from is not None:
            here = self._seconds(event.position().x())
            self.span = (min(self._from, here), max(self._from, here))
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        began, self._from = self._from, None
        if began is not None and self.span[1] - self.span[0] >= LEAST_SECONDS:
            self.chosen.emit(*self.span)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {Qt.Key.Key_Left: -STEP_SECONDS, Qt.Key.Key_Right: STEP_SECONDS}
        step = steps.get(Qt.Key(event.key()))
        if step is None:
            super().keyPressEvent(event)
            return
        start, end = self.span
        if not event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            start = min(max(0.0, start + step), self._end - LEAST_SECONDS)
        end = min(max(end + step, start + LEAST_SECONDS), self._end)
        self.chosen.emit(start, end)

    def focusInEvent(self, event: QFocusEvent) -> None:
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        self.update()
