"""The list of spines, and a spine painted: label, title and owner, state, total, staircase."""

from PySide6.QtCore import (
    QModelIndex,
    QPersistentModelIndex,
    QPointF,
    QRect,
    QRectF,
    QSize,
    Qt,
)
from PySide6.QtGui import QFontMetrics, QMouseEvent, QPainter, QPen
from PySide6.QtWidgets import QListView, QStyle, QStyledItemDelegate, QStyleOptionViewItem

from plucky_ledger.pages.shelf import ShelfOrder, Spine, group_of
from plucky_ledger.ui.drawing.reading_order import begins_at, write
from plucky_ledger.ui.shelf_model import SPINE_ROLE
from plucky_ledger.ui.theme import ink, scaled_font, title_font
from plucky_ledger.wording.shelf import about, group_heading, saved, state, title

Index = QModelIndex | QPersistentModelIndex
STATE_WIDTH = 330


class SpineList(QListView):
    """The spines; a heading above one is not part of it."""

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = event.position().toPoint()
        index, delegate = self.indexAt(at), self.itemDelegate()
        if index.isValid() and isinstance(delegate, SpineDelegate):
            inside = at.y() - self.visualRect(index).top()
            if inside < delegate.heading_height(index):
                return
        super().mousePressEvent(event)


class SpineDelegate(QStyledItemDelegate):
    """Paints a spine: label, title and owner, state, total, staircase."""

    order = ShelfOrder.NEXT
    """What the spines are in order of."""

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        lines = QFontMetrics(scaled_font(1.2)).height() + QFontMetrics(scaled_font(0.9)).height()
        return QSize(400, lines + 26 + self.heading_height(index))

    def group(self, index: Index) -> str | None:
        """What the PC shares with its neighbours; None where each stands for itself."""
        return group_of(index.data(SPINE_ROLE), self.order) if index.isValid() else None

    def heading_height(self, index: Index) -> int:
        """How much of a spine's place is a heading of its group; 0 without one."""
        return _heading_height() if self._begins_group(index) else 0

    def _begins_group(self, index: Index) -> bool:
        group = self.group(index)
        before = index.sibling(index.row() - 1, 0)
        return group is not None and (not before.isValid() or self.group(before) != group)

    def _heading(self, index: Index) -> str:
        """Above the first PC of a group."""
        group, count, at = self.group(index), 0, index
        while at.isValid() and self.group(at) == group:
            count, at = count + 1, at.sibling(at.row() + 1, 0)
        return group_heading(group or "", self.order, count)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        spine: Spine = index.data(SPINE_ROLE)
        colours = ink()
        box: QRect = option.rect.adjusted(0, 3, -1, -4)
        painter.save()
        if self._begins_group(index):
            painter.setPen(colours.of("ink"))
            painter.setFont(scaled_font(1.0, bold=True))
            above = painter.fontMetrics()
            words = above.elidedText(
                self._heading(index), Qt.TextElideMode.ElideRight, box.width() - 4
            )
            write(painter, box, 2, box.top() + _heading_height() - above.descent() - 6, words)
            box.setTop(box.top() + _heading_height())
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        selected = option.state & QStyle.StateFlag.State_Selected
        painter.setPen(QPen(colours.of("rule"), 1))
        painter.setBrush(colours.of("wash" if selected else "page"))
        painter.drawRect(box)
        painter.fillRect(
            QRect(round(begins_at(box, 0, 10)), box.top(), 10, box.height() + 1),
            colours.of("lost" if spine.due else "saved"),
        )
        painter.setPen(colours.of("pencil"))
        painter.setFont(scaled_font(1.0, bold=True))
        middle = box.center().y()
        write(painter, box, 24, middle + 5, spine.card.label)
        painter.setPen(colours.of("ink"))
        painter.setFont(title_font(1.25))
        metrics = painter.fontMetrics()
        write(painter, box, 90, box.top() + 7 + metrics.ascent(), title(spine))
        painter.setFont(scaled_font(0.9))
        small = painter.fontMetrics()
        painter.setPen(colours.of("pencil"))
        below = box.top() + 9 + metrics.height() + small.ascent()
        room = box.width() - 250 - STATE_WIDTH - 90 - 12
        words = small.elidedText(about(spine, self.order), Qt.TextElideMode.ElideRight, room)
        write(painter, box, 90, below, words)
        self._paint_right(painter, box, spine)
        painter.restore()

    def _paint_right(self, painter: QPainter, box: QRect, spine: Spine) -> None:
        colours, middle = ink(), box.center().y()
        painter.setFont(scaled_font(1.0, bold=spine.due))
        painter.setPen(colours.of("lost" if spine.due else "ink"))
        words = painter.fontMetrics().elidedText(
            state(spine), Qt.TextElideMode.ElideRight, STATE_WIDTH
        )
        write(painter, box, box.width() - 250 - STATE_WIDTH, middle + 5, words)
        painter.setFont(scaled_font(1.0, bold=True))
        amount = saved(spine)
        painter.setPen(colours.of("lost" if (spine.saved or 0.0) < 0 else "saved"))
        write(painter, box, box.width() - 150, middle + 5, amount, ends=True)
        left = begins_at(box, box.width() - 130, 112)
        steps = QRectF(left, box.top() + 10, 112, box.height() - 20)
        _staircase(painter, steps, spine.staircase)


def _heading_height() -> int:
    return QFontMetrics(scaled_font(1.0, bold=True)).height() + 14


def _staircase(painter: QPainter, box: QRectF, heights: tuple[float, ...]) -> None:
    if not heights:
        return
    step = box.width() / len(heights)
    painter.setPen(QPen(ink().of("ink"), 1.4))
    painter.drawLine(box.bottomLeft(), box.bottomRight())
    last: QPointF | None = None
    for index, height in enumerate(heights):
        y = box.bottom() - box.height() * height
        left = QPointF(box.left() + index * step, y)
        if last is not None:
            painter.drawLine(last, left)
        last = QPointF(left.x() + step, y)
        painter.drawLine(left, last)
