"""The timeline on the screen: zoomed at the pointer, panned by dragging, read with a crosshair."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from PySide6.QtCore import QEvent, QPoint, QPointF, QRect, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import (
    QFocusEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QAbstractScrollArea

from plucky_ledger.core.values.axes import within, zoomed
from plucky_ledger.pages.curves import readings_at
from plucky_ledger.pages.lanes import LanesPage
from plucky_ledger.ui.accessible.picture import Picture
from plucky_ledger.ui.drawing.focus import draw_focus
from plucky_ledger.ui.lenses.lanes_layout import Drawn, Sheet, drawn, picture
from plucky_ledger.ui.theme import ink, scaled_font
from plucky_ledger.wording.figures import seconds as seconds_in_words
from plucky_ledger.wording.lanes import crosshair_line, spoken_lanes
from plucky_ledger.wording.language import say
from plucky_ledger.wording.spoken import SpokenRow

ZOOM_STEP = 1.25
STANDS_AFTER_MILLISECONDS = 120
CLICK_PIXELS = 4
"""A press that moves less is a click."""
LANES_A_PAGE = 10


@dataclass(frozen=True)
class _Kept:
    """A sheet as it was painted."""

    of: tuple[Drawn, Drawn | None]
    look: tuple[object, ...]
    pixmap: QPixmap


class LanesCanvas(Picture, QAbstractScrollArea):
    """The timeline itself. The lanes scroll under the machine's, which stays.

    Signals:
        chosen_changed(): another lane is chosen.
    """

    chosen_changed = Signal()
    name_of_file = "lanes"

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
        self._pressed_at: QPoint | None = None
        self._moving = False
        self._kept: _Kept | None = None
        self._stands = QTimer(self)
        self._stands.setSingleShot(True)
        self._stands.setInterval(STANDS_AFTER_MILLISECONDS)
        self._stands.timeout.connect(self._stand)
        self._empty = ""
        self._pointed_at = ""
        self._spoken: tuple[tuple[Drawn | None, Drawn | None], tuple[SpokenRow, ...]] | None = None
        """What is read out, with what it was made of."""
        self.chosen = ""
        """Entry of the chosen lane; empty without one."""

    def show_pages(self, front: LanesPage | None, behind: LanesPage | None, empty: str) -> None:
        """Show a boot, and another over it in pencil; ``empty`` is said when there is none.

        The same boot stays in view as it is.
        """
        before = self._front.page.boot.uuid if self._front else None
        self._front = drawn(front) if front else None
        self._behind = drawn(behind, self._front) if behind else None
        self._empty = empty
        if front is None or front.boot.uuid != before:
            self.fit()
        self._fit_scroll_bar()
        self.viewport().update()
        self.tell_of_rows()

    def spoken_rows(self) -> Sequence[SpokenRow]:
        """The marks, then the lanes; worked out when somebody has them read out."""
        front, behind = self._front, self._behind
        of = front, behind
        if self._spoken is None or self._spoken[0] != of:
            rows = spoken_lanes(front.page, behind.page if behind else None) if front else ()
            self._spoken = of, rows
        return self._spoken[1]

    def spoken_chosen(self) -> int:
        at = self._front.index_of.get(self.chosen) if self._front else None
        return self._lanes_from + at if at is not None else -1

    def choose_spoken(self, row: int) -> None:
        """Choose a lane; the marks before them cannot be chosen."""
        at, page = row - self._lanes_from, self.page
        if page is not None and 0 <= at < len(page.lanes):
            self.choose(page.lanes[at].entry_id)

    def spoken_box(self, row: int) -> QRect:
        """Where a lane is painted; the marks stand at the head."""
        sheet, at = self.sheet, row - self._lanes_from
        if sheet is None or at < 0:
            return self.viewport().rect()
        top = sheet.lanes_top + at * sheet.lane_height - sheet.scrolled
        return QRectF(0, top, sheet.width, sheet.lane_height).toRect()

    @property
    def _lanes_from(self) -> int:
        """Rows before the first lane."""
        page = self.page
        return len(self.spoken_rows()) - len(page.lanes) if page is not None else 0

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
        readings = readings_at(self._front.page.strips, self._crosshair)
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
        self._move()

    def pan(self, seconds: float) -> None:
        """Move the view."""
        self._view = within((self._view[0] + seconds, self._view[1] + seconds), self._whole())
        self._move()

    def _whole(self) -> tuple[float, float]:
        pages = [ready.page for ready in (self._front, self._behind) if ready]
        if not pages:
            return (0.0, 1.0)
        start, end = min(page.start for page in pages), max(page.end for page in pages)
        return (start, max(end, start + 1.0))

    @property
    def is_chart(self) -> bool:
        return self.sheet is not None

    def as_picture(self, title: str, ending: str) -> bytes:
        """The lanes as they are in view, all rows of them."""
        sheet = self.sheet
        assert sheet is not None, "a picture of no boot"
        return picture(sheet.front, sheet.behind, sheet.view, title, ending)

    @property
    def sheet(self) -> Sheet | None:
        """What is in view now; None when there is no boot."""
        if self._front is None:
            return None
        size = self.viewport().size()
        return Sheet(
            front=self._front,
            behind=self._behind,
            view=self._view,
            width=float(size.width()),
            height=float(size.height()),
            scrolled=float(self.verticalScrollBar().value()),
            chosen=self.chosen,
            pointed_at=self._pointed_at,
            moving=self._moving,
        )

    def _move(self) -> None:
        """Paint quickly now, and smoothly once it stands."""
        self._moving = True
        self._stands.start()
        self.viewport().update()

    def _stand(self) -> None:
        self._moving = False
        self.viewport().update()

    def scrollContentsBy(self, _right: int, _down: int) -> None:
        self._move()

    def choose(self, entry_id: str) -> None:
        """Choose a lane: its share is inked in the machine's."""
        if entry_id == self.chosen:
            return
        self.chosen = entry_id
        sheet = self.sheet
        row = sheet.front.index_of.get(entry_id) if sheet else None
        if sheet is not None and row is not None:
            self._bring_in_sight(sheet, row)
        self.viewport().update()
        self.chosen_changed.emit()
        self.tell_of_chosen()

    def _bring_in_sight(self, sheet: Sheet, row: int) -> None:
        bar, top = self.verticalScrollBar(), row * sheet.lane_height
        if top < bar.value():
            bar.setValue(int(top))
        elif top > bar.value() + sheet.room - sheet.lane_height:
            bar.setValue(round(top - sheet.room + sheet.lane_height))

    def look_for(self, wanted: str) -> bool:
        """Choose the first lane whose name contains a text; False when there is none."""
        sheet = self.sheet
        row = sheet.row_of(wanted) if sheet and wanted else None
        if sheet is None or row is None:
            return False
        self.choose(sheet.front.page.lanes[row].entry_id)
        return True

    def step(self, lanes: int) -> None:
        """Choose another lane, so many further down."""
        page = self.page
        if page is None or not page.lanes or self._front is None:
            return
        at = self._front.index_of.get(self.chosen, -1 if lanes > 0 else 0)
        self.choose(page.lanes[min(max(at + lanes, 0), len(page.lanes) - 1)].entry_id)

    def _fit_scroll_bar(self) -> None:
        sheet, bar = self.sheet, self.verticalScrollBar()
        if sheet is None:
            bar.setRange(0, 0)
            return
        bar.setRange(0, max(0, round(sheet.lanes_height - sheet.room)))
        bar.setPageStep(max(1, int(sheet.room)))
        bar.setSingleStep(int(sheet.lane_height))

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self.viewport())
        painter.fillRect(self.viewport().rect(), ink().of("page"))
        self._paint(painter)
        if self.hasFocus():
            draw_focus(painter, self.viewport().rect())

    def focusInEvent(self, event: QFocusEvent) -> None:
        """Show where the keyboard is."""
        super().focusInEvent(event)
        self.viewport().update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        """It has gone elsewhere."""
        super().focusOutEvent(event)
        self.viewport().update()

    def _paint(self, painter: QPainter) -> None:
        sheet = self.sheet
        if sheet is None:
            painter.setPen(ink().of("pencil"))
            painter.drawText(
                self.viewport().rect().adjusted(20, 20, -20, -20),
                Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap,
                self._empty,
            )
            return
        if self._moving:
            sheet.paint(painter)
        else:
            painter.drawPixmap(0, 0, self._painted(sheet))
        if self._crosshair is not None:
            self._paint_crosshair(painter, sheet, self._crosshair)

    def _painted(self, sheet: Sheet) -> QPixmap:
        """A sheet that stands is painted once; the crosshair moves over it."""
        look = (
            sheet.view,
            sheet.scrolled,
            sheet.chosen,
            sheet.pointed_at,
            self.viewport().size(),
            self.devicePixelRatioF(),
            ink(),
            self.font().key(),
        )
        kept = self._kept
        if kept is None or kept.of != (sheet.front, sheet.behind) or kept.look != look:
            pixmap = QPixmap(self.viewport().size() * self.devicePixelRatioF())
            pixmap.setDevicePixelRatio(self.devicePixelRatioF())
            pixmap.fill(ink().of("page"))
            painter = QPainter(pixmap)
            sheet.paint(painter)
            painter.end()
            kept = self._kept = _Kept((sheet.front, sheet.behind), look, pixmap)
        return kept.pixmap

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
            bar.setValue(bar.value() - round(steps * 2 * sheet.lane_height))
        else:
            self.zoom(ZOOM_STEP**steps, axis.value(event.position().x()))
        event.accept()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() is Qt.MouseButton.LeftButton:
            self._dragged_from = self._pressed_at = event.position().toPoint()
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
        lane = sheet.lane_at(here.y())
        self._pointed_at = lane.entry_id if lane is not None else ""
        self.viewport().update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        here, sheet = event.position().toPoint(), self.sheet
        pressed, self._dragged_from = self._pressed_at, None
        self.viewport().unsetCursor()
        if sheet is None or pressed is None:
            return
        lane = sheet.lane_at(here.y())
        if (here - pressed).manhattanLength() < CLICK_PIXELS and lane is not None:
            self.choose(lane.entry_id)

    def mouseDoubleClickEvent(self, _event: QMouseEvent) -> None:
        self.fit()

    def leaveEvent(self, _event: QEvent) -> None:
        self._crosshair, self._pointed_at = None, ""
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
            Qt.Key.Key_Up: lambda: self.step(-1),
            Qt.Key.Key_Down: lambda: self.step(1),
            Qt.Key.Key_PageUp: lambda: self.step(-LANES_A_PAGE),
            Qt.Key.Key_PageDown: lambda: self.step(LANES_A_PAGE),
            Qt.Key.Key_Home: lambda: self.step(-1_000_000),
            Qt.Key.Key_End: lambda: self.step(1_000_000),
        }
        action = actions.get(Qt.Key(event.key()))
        if action is None:
            super().keyPressEvent(event)
        else:
            action()

    def sizeHint(self) -> QSize:
        return QSize(760, 640)
