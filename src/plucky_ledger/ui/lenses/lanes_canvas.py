"""The timeline on the screen: zoomed at the pointer, panned by dragging, read with a crosshair."""

from collections.abc import Callable

from PySide6.QtCore import QEvent, QPoint, QPointF, QRectF, QSize, Qt
from PySide6.QtGui import (
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QAbstractScrollArea

from plucky_ledger.core.axes import within, zoomed
from plucky_ledger.pages.lanes import LanesPage, under_crosshair
from plucky_ledger.ui.lenses.lanes_layout import Drawn, Sheet, drawn
from plucky_ledger.ui.theme import ink, scaled_font
from plucky_ledger.wording.figures import seconds as seconds_in_words
from plucky_ledger.wording.lanes import crosshair_line
from plucky_ledger.wording.language import say

ZOOM_STEP = 1.25


class LanesCanvas(QAbstractScrollArea):
    """The timeline itself. The lanes scroll under the curves, which stay."""

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName(say("Timeline of the boot"))
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setFrameShape(QAbstractScrollArea.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.viewport().setMouseTracking(True)
        self._front: Drawn | None = None
        self._behind: Drawn | None = None
        self._view = (0.0, 1.0)
        self._crosshair: float | None = None
        self._dragged_from: QPoint | None = None
        self._empty = ""
        self._wanted = ""

    def show_pages(self, front: LanesPage | None, behind: LanesPage | None, empty: str) -> None:
        """Show a boot, and another behind it; ``empty`` is said when there is none."""
        self._front = drawn(front) if front else None
        self._behind = drawn(behind) if behind else None
        self._empty = empty
        self.fit()

    @property
    def page(self) -> LanesPage | None:
        """The boot in front."""
        return self._front.page if self._front else None

    @property
    def view(self) -> tuple[float, float]:
        """Seconds at both edges."""
        return self._view

    @property
    def crosshair_readings(self) -> tuple[str, ...]:
        """What the crosshair reads now."""
        if self._front is None or self._crosshair is None:
            return ()
        readings = under_crosshair(self._front.page, self._crosshair)
        return tuple(crosshair_line(reading) for reading in readings)

    def fit(self) -> None:
        """Show the whole boot."""
        self._view = self._whole()
        self._fit_scroll_bar()
        self.viewport().update()

    def zoom(self, factor: float, about: float | None = None) -> None:
        """Zoom about an instant, or about the middle."""
        middle = (self._view[0] + self._view[1]) / 2
        instant = about if about is not None else middle
        self._view = zoomed(self._view, self._whole(), instant, factor)
        self.viewport().update()

    def pan(self, seconds: float) -> None:
        """Move the view."""
        self._view = within((self._view[0] + seconds, self._view[1] + seconds), self._whole())
        self.viewport().update()

    def _whole(self) -> tuple[float, float]:
        pages = [ready.page for ready in (self._front, self._behind) if ready]
        if not pages:
            return (0.0, 1.0)
        start, end = min(page.start for page in pages), max(page.end for page in pages)
        return (start, max(end, start + 1.0))

    @property
    def sheet(self) -> Sheet | None:
        """What is in view now; None when there is no boot."""
        if self._front is None:
            return None
        size = self.viewport().size()
        return Sheet(
            self._front,
            self._behind,
            self._view,
            float(size.width()),
            float(size.height()),
            float(self.verticalScrollBar().value()),
            self._wanted,
        )

    def look_for(self, wanted: str) -> bool:
        """Mark the lanes whose name contains a text and scroll to the first; False when none."""
        self._wanted = wanted
        sheet = self.sheet
        row = sheet.row_of(wanted) if sheet and wanted else None
        if sheet is not None and row is not None:
            bar = self.verticalScrollBar()
            top = row * sheet.lane_height
            if not bar.value() <= top <= bar.value() + sheet.room - sheet.lane_height:
                bar.setValue(round(top - sheet.room / 2))
        self.viewport().update()
        return row is not None

    def _fit_scroll_bar(self) -> None:
        sheet, bar = self.sheet, self.verticalScrollBar()
        if sheet is None:
            bar.setRange(0, 0)
            return
        bar.setRange(0, max(0, round(sheet.lanes_height - sheet.room)))
        bar.setPageStep(max(1, int(sheet.room)))
        bar.setSingleStep(sheet.lane_height)

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self.viewport())
        painter.fillRect(self.viewport().rect(), ink().of("page"))
        sheet = self.sheet
        if sheet is None:
            painter.setPen(ink().of("pencil"))
            painter.drawText(
                self.viewport().rect().adjusted(20, 20, -20, -20),
                Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap,
                self._empty,
            )
            return
        sheet.paint(painter)
        if self._crosshair is not None:
            self._paint_crosshair(painter, sheet, self._crosshair)

    def _paint_crosshair(self, painter: QPainter, sheet: Sheet, seconds: float) -> None:
        axis, colours = sheet.axis, ink()
        x = axis.place(seconds)
        if not axis.left <= x <= axis.right:
            return
        painter.setPen(QPen(colours.of("lost"), 1))
        painter.drawLine(QPointF(x, 0), QPointF(x, self.viewport().height()))
        lines = (seconds_in_words(seconds), *self.crosshair_readings)
        painter.setFont(scaled_font(0.84))
        metrics = painter.fontMetrics()
        width = max(metrics.horizontalAdvance(line) for line in lines) + 14
        left = x + 8 if x + 8 + width < self.viewport().width() else x - 8 - width
        box = QRectF(left, 72, width, len(lines) * metrics.height() + 8)
        painter.setPen(QPen(colours.of("rule"), 1))
        painter.setBrush(colours.of("page"))
        painter.drawRect(box)
        painter.setPen(colours.of("ink"))
        for index, line in enumerate(lines):
            painter.drawText(
                QPointF(left + 7, box.top() + 4 + metrics.ascent() + index * metrics.height()), line
            )

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit_scroll_bar()

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Zooms at the pointer; with Shift, or over the names, the lanes scroll."""
        sheet = self.sheet
        if sheet is None:
            return
        axis = sheet.axis
        steps = (event.angleDelta().y() or event.angleDelta().x()) / 120
        over_names = event.position().x() < axis.left
        if over_names or event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            bar = self.verticalScrollBar()
            bar.setValue(bar.value() - round(steps * 3 * sheet.lane_height))
        else:
            self.zoom(ZOOM_STEP**steps, axis.value(event.position().x()))
        event.accept()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() is Qt.MouseButton.LeftButton:
            self._dragged_from = event.position().toPoint()
            self.viewport().setCursor(Qt.CursorShape.ClosedHandCursor)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        sheet = self.sheet
        if sheet is None:
            return
        axis = sheet.axis
        here = event.position().toPoint()
        if self._dragged_from is not None:
            self.pan(-(here.x() - self._dragged_from.x()) / axis.per_unit)
            bar = self.verticalScrollBar()
            bar.setValue(bar.value() - (here.y() - self._dragged_from.y()))
            self._dragged_from = here
        inside = axis.left <= here.x() <= axis.right
        self._crosshair = axis.value(here.x()) if inside else None
        self.viewport().update()

    def mouseReleaseEvent(self, _event: QMouseEvent) -> None:
        self._dragged_from = None
        self.viewport().unsetCursor()

    def mouseDoubleClickEvent(self, _event: QMouseEvent) -> None:
        self.fit()

    def leaveEvent(self, _event: QEvent) -> None:
        self._crosshair = None
        self.viewport().update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        length = self._view[1] - self._view[0]
        actions: dict[Qt.Key, Callable[[], None]] = {
            Qt.Key.Key_Plus: lambda: self.zoom(ZOOM_STEP),
            Qt.Key.Key_Equal: lambda: self.zoom(ZOOM_STEP),
            Qt.Key.Key_Minus: lambda: self.zoom(1 / ZOOM_STEP),
            Qt.Key.Key_0: self.fit,
            Qt.Key.Key_Left: lambda: self.pan(-length / 10),
            Qt.Key.Key_Right: lambda: self.pan(length / 10),
        }
        action = actions.get(Qt.Key(event.key()))
        if action is None:
            super().keyPressEvent(event)
        else:
            action()

    def sizeHint(self) -> QSize:
        return QSize(760, 640)
