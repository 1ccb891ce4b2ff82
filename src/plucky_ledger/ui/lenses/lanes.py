"""The Lanes lens: one boot as a timeline that can be zoomed, panned and read off."""

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QEvent, QPoint, QPointF, QRectF, QSize, Qt
from PySide6.QtGui import (
    QFontMetrics,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QAbstractScrollArea, QVBoxLayout, QWidget

from plucky_ledger.bench.lanes_page import LanesPage, lanes_page, under_crosshair
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.lenses.lanes_painter import (
    BAND_HEIGHT,
    LEAST_LANE_HEIGHT,
    MOST_LANE_HEIGHT,
    STRIP_HEIGHT,
    LanesPainter,
    curve,
)
from plucky_ledger.ui.lenses.time_axis import TimeAxis, within, zoomed
from plucky_ledger.ui.theme import ink, scaled_font

LEFT_CHARACTERS = 20
RIGHT_CHARACTERS = 7
ZOOM_STEP = 1.25


@dataclass(frozen=True)
class _Drawn:
    """A page with its curves made ready for painting."""

    page: LanesPage
    curves: tuple[QPainterPath, ...]


def _drawn(page: LanesPage) -> _Drawn:
    return _Drawn(page, tuple(curve(strip) for strip in page.strips))


class LanesCanvas(QAbstractScrollArea):
    """The timeline itself. The lanes scroll under the curves, which stay."""

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Timeline of the boot")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setFrameShape(QAbstractScrollArea.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.viewport().setMouseTracking(True)
        self._front: _Drawn | None = None
        self._behind: _Drawn | None = None
        self._view = (0.0, 1.0)
        self._crosshair: float | None = None
        self._dragged_from: QPoint | None = None
        self._empty = ""
        self._lane_height = MOST_LANE_HEIGHT

    def show_pages(self, front: LanesPage | None, behind: LanesPage | None, empty: str) -> None:
        """Show a boot, and another behind it; ``empty`` is said when there is none."""
        self._front = _drawn(front) if front else None
        self._behind = _drawn(behind) if behind else None
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
        return under_crosshair(self._front.page, self._crosshair)

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
        pages = [drawn.page for drawn in (self._front, self._behind) if drawn]
        if not pages:
            return (0.0, 1.0)
        start, end = min(page.start for page in pages), max(page.end for page in pages)
        return (start, max(end, start + 1.0))

    def _axis(self) -> TimeAxis:
        metrics = QFontMetrics(scaled_font(0.88))
        left = metrics.horizontalAdvance("n" * LEFT_CHARACTERS)
        right = self.viewport().width() - metrics.horizontalAdvance("0" * RIGHT_CHARACTERS)
        return TimeAxis(*self._view, float(left), float(max(right, left + 50)))

    def _lanes_top(self, flags_height: float) -> float:
        strips = len(self._front.page.strips) if self._front else 0
        ruler = QFontMetrics(scaled_font(0.8)).height() + 4
        return flags_height + ruler + BAND_HEIGHT + 6 + strips * STRIP_HEIGHT + 4

    def _fit_scroll_bar(self) -> None:
        lanes = len(self._front.page.lanes) if self._front else 0
        flags = 3 * (QFontMetrics(scaled_font(0.8)).height() + 3) + 2
        room = self.viewport().height() - self._lanes_top(flags) - 4
        fitting = int(room // lanes) if lanes else MOST_LANE_HEIGHT
        self._lane_height = min(max(fitting, LEAST_LANE_HEIGHT), MOST_LANE_HEIGHT)
        self.verticalScrollBar().setRange(0, max(0, round(lanes * self._lane_height - room)))
        self.verticalScrollBar().setPageStep(max(1, int(room)))
        self.verticalScrollBar().setSingleStep(self._lane_height)

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self.viewport())
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.viewport().rect(), ink().of("page"))
        if self._front is None:
            painter.setPen(ink().of("pencil"))
            painter.drawText(
                self.viewport().rect().adjusted(20, 20, -20, -20),
                Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap,
                self._empty,
            )
            return
        self._paint_page(painter, self._front)
        if self._crosshair is not None:
            self._paint_crosshair(painter, self._crosshair)

    def _paint_page(self, painter: QPainter, front: _Drawn) -> None:
        width, height = float(self.viewport().width()), float(self.viewport().height())
        brush = LanesPainter(painter, self._axis(), ink(), width, self._lane_height)
        lanes_top = self._lanes_top(brush.flags_height)
        ruler_top = brush.flags_height
        band_top = ruler_top + QFontMetrics(scaled_font(0.8)).height() + 4
        bottom = min(height, lanes_top + len(front.page.lanes) * self._lane_height)
        brush.ruler(ruler_top, bottom)
        self._paint_lanes(painter, brush, front, lanes_top)
        brush.bands(front.page.bands, band_top)
        curves = self._behind.curves if self._behind else ()
        for index, (strip, path) in enumerate(zip(front.page.strips, front.curves, strict=True)):
            behind = curves[index] if index < len(curves) else None
            brush.strip(strip, path, band_top + BAND_HEIGHT + 6 + index * STRIP_HEIGHT, behind)
        brush.flags(front.page.flags, 1, bottom)
        if front.page.note:
            painter.setPen(ink().of("pencil"))
            painter.setFont(scaled_font(1.0))
            painter.drawText(
                QRectF(20, lanes_top + 14, width - 40, 60),
                Qt.AlignmentFlag.AlignHCenter | Qt.TextFlag.TextWordWrap,
                front.page.note,
            )

    def _paint_lanes(
        self, painter: QPainter, brush: LanesPainter, front: _Drawn, top: float
    ) -> None:
        """Only the lanes in sight."""
        behind = {lane.entry_id: lane for lane in self._behind.page.lanes} if self._behind else {}
        offset = self.verticalScrollBar().value()
        first = offset // self._lane_height
        count = int((self.viewport().height() - top) // self._lane_height) + 2
        painter.save()
        painter.setClipRect(QRectF(0, top, self.viewport().width(), self.viewport().height()))
        for index, lane in enumerate(front.page.lanes[first : first + count], first):
            brush.lane(lane, top + index * self._lane_height - offset, behind.get(lane.entry_id))
        painter.restore()

    def _paint_crosshair(self, painter: QPainter, seconds: float) -> None:
        axis, colours = self._axis(), ink()
        x = axis.x(seconds)
        if not axis.left <= x <= axis.right:
            return
        painter.setPen(QPen(colours.of("lost"), 1))
        painter.drawLine(QPointF(x, 0), QPointF(x, self.viewport().height()))
        lines = (f"{seconds:.1f} s", *self.crosshair_readings)
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
        axis = self._axis()
        steps = (event.angleDelta().y() or event.angleDelta().x()) / 120
        over_names = event.position().x() < axis.left
        if over_names or event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            bar = self.verticalScrollBar()
            bar.setValue(bar.value() - round(steps * 3 * self._lane_height))
        else:
            self.zoom(ZOOM_STEP**steps, axis.seconds(event.position().x()))
        event.accept()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() is Qt.MouseButton.LeftButton:
            self._dragged_from = event.position().toPoint()
            self.viewport().setCursor(Qt.CursorShape.ClosedHandCursor)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        axis = self._axis()
        here = event.position().toPoint()
        if self._dragged_from is not None:
            self.pan(-(here.x() - self._dragged_from.x()) / axis.pixels_per_second)
            bar = self.verticalScrollBar()
            bar.setValue(bar.value() - (here.y() - self._dragged_from.y()))
            self._dragged_from = here
        inside = axis.left <= here.x() <= axis.right
        self._crosshair = axis.seconds(here.x()) if inside else None
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


class LanesLens(QWidget):
    """Shows the chosen boot of the desk."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self.canvas = LanesCanvas()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(14, 4, 8, 4)
        layout.addWidget(self.canvas)
        desk.job_changed.connect(self.refresh)
        desk.boot_changed.connect(self.refresh)

    def refresh(self) -> None:
        """Show the boot that is chosen now."""
        boot, timeline = self._desk.boot, self._desk.timeline(self._desk.boot)
        if boot is None:
            self.canvas.show_pages(None, None, "No boot yet. Record one with Ctrl+R, time it with "
                                   "the stopwatch (Ctrl+T), or type its figures.")  # fmt: skip
            return
        if timeline is None:
            return
        behind, behind_timeline = self._desk.behind, self._desk.timeline(self._desk.behind)
        laid = lanes_page(behind, behind_timeline) if behind and behind_timeline else None
        self.canvas.show_pages(lanes_page(boot, timeline), laid, "")
