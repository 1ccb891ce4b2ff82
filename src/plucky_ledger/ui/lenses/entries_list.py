"""The list of startup entries: its model, and how a row is painted."""

from dataclasses import dataclass
from typing import Any

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QFontMetrics, QPainter, QPen
from PySide6.QtWidgets import QStyle, QStyledItemDelegate, QStyleOptionViewItem

from plucky_ledger.core.replay.grades import Grade
from plucky_ledger.pages.entries import EntryRow
from plucky_ledger.ui.drawing.grade_discs import draw_discs
from plucky_ledger.ui.drawing.reading_order import begins_at, rest_after
from plucky_ledger.ui.drawing.stamp import draw_stamp
from plucky_ledger.ui.lenses.headed_model import ROW_ROLE, HeadedModel, Index
from plucky_ledger.ui.text import tip
from plucky_ledger.ui.theme import DECISION_COLOURS, ink, scaled_font
from plucky_ledger.wording.entries import EntryWords, spoken_cells
from plucky_ledger.wording.language import N_

HEADINGS = (N_("entry"), N_("seconds it costs"), N_("MB held"), N_("decided"))
DISCS = {
    Grade.HEAVY: 4,
    Grade.MODERATE: 3,
    Grade.LIGHT: 2,
    Grade.NEGLIGIBLE: 1,
    Grade.NOT_KNOWN_YET: 0,
    Grade.UNGRADED: 0,
}
TEXT_LEFT = 26


@dataclass(frozen=True)
class ListedEntry:
    """A row with its words."""

    row: EntryRow
    words: EntryWords


class EntriesModel(HeadedModel):
    """The rows in sight."""

    rows: tuple[ListedEntry, ...]

    def __init__(self) -> None:
        super().__init__(HEADINGS)
        self.most_seconds = 1.0

    def show_rows(self, rows: tuple[ListedEntry, ...], most_seconds: float) -> None:
        """Show other rows; only what changed when they are the same entries."""
        same = [listed.row.entry.entry_id for listed in rows] == [
            listed.row.entry.entry_id for listed in self.rows
        ]
        if same and most_seconds == self.most_seconds:
            self.rows = rows
            if rows:
                last = self.index(len(rows) - 1, len(HEADINGS) - 1)
                self.dataChanged.emit(self.index(0, 0), last)
            return
        self.beginResetModel()
        self.rows, self.most_seconds = rows, most_seconds
        self.endResetModel()

    def headerData(
        self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole
    ) -> Any:
        if role == Qt.ItemDataRole.TextAlignmentRole and section == 2:
            return int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        return super().headerData(section, orientation, role)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if not index.isValid():
            return None
        listed = self.rows[index.row()]
        words = listed.words
        if role == ROW_ROLE:
            return listed
        if role == Qt.ItemDataRole.DisplayRole:
            return (words.name, words.cost, words.memory, words.decision)[index.column()]
        if role == Qt.ItemDataRole.AccessibleTextRole:
            return spoken_cells(listed.row, words)[index.column()]
        if role == Qt.ItemDataRole.ToolTipRole and index.column() == 0:
            return tip(f"{words.name}\n{words.about}")
        return None


class EntryDelegate(QStyledItemDelegate):
    """Two lines of text, a cost bar with its whisker, memory held, and the decision's stamp."""

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        big, small = (QFontMetrics(scaled_font(scale)).height() for scale in (1.0, 0.82))
        return QSize(60, big + small + 11)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        listed: ListedEntry = index.data(ROW_ROLE)
        box = QRectF(option.rect)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(box, ink().of("wash"))
        painter.setPen(QPen(ink().of("faint"), 1))
        painter.drawLine(box.bottomLeft(), box.bottomRight())
        paint = (self._entry, self._seconds, self._memory, self._decision)[index.column()]
        paint(painter, box, listed)
        painter.restore()

    @staticmethod
    def _entry(painter: QPainter, box: QRectF, listed: ListedEntry) -> None:
        draw_discs(
            painter, begins_at(box, 12), box.center().y(), DISCS[listed.row.grade], ink().of("ink")
        )
        text = rest_after(box.adjusted(0, 4, 0, -4), TEXT_LEFT)
        bold = scaled_font(1.0, bold=True)
        _line(painter, text, listed.words.name, bold, "ink")
        text.setTop(text.top() + QFontMetrics(bold).height())
        _line(painter, text, listed.words.about, scaled_font(0.82), "pencil")

    def _seconds(self, painter: QPainter, box: QRectF, listed: ListedEntry) -> None:
        colours = ink()
        cost, seconds = listed.words.cost, listed.row.cost.settled
        if seconds is None:
            font = scaled_font(0.85)
            font.setItalic(True)
            painter.setFont(font)
            painter.setPen(colours.of("pencil"))
            painter.drawText(
                box.adjusted(4, 2, -4, -2),
                Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextWordWrap,
                cost,
            )
            return
        model = self.parent()
        most = model.most_seconds if isinstance(model, EntriesModel) else 1.0
        scale = (box.width() - 52) / most
        middle, left = box.center().y(), box.left() + 4
        bar = colours.of("ink")
        bar.setAlpha(170)
        painter.fillRect(QRectF(left, middle - 6, max(0.0, seconds.value) * scale, 12), bar)
        painter.setPen(QPen(colours.of("lost"), 1.6))
        low, high = max(0.0, seconds.low) * scale, max(0.0, seconds.high) * scale
        painter.drawLine(QPointF(left + low, middle), QPointF(left + high, middle))
        painter.drawLine(QPointF(left + high, middle - 3), QPointF(left + high, middle + 3))
        painter.setPen(colours.of("ink"))
        painter.setFont(scaled_font(1.0))
        painter.drawText(
            QRectF(left + high + 6, box.top(), 46, box.height()),
            Qt.AlignmentFlag.AlignVCenter,
            cost,
        )

    @staticmethod
    def _memory(painter: QPainter, box: QRectF, listed: ListedEntry) -> None:
        painter.setPen(ink().of("ink"))
        painter.setFont(scaled_font(1.0))
        painter.drawText(
            box.adjusted(0, 0, -8, 0),
            Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight,
            listed.words.memory,
        )

    @staticmethod
    def _decision(painter: QPainter, box: QRectF, listed: ListedEntry) -> None:
        row = listed.row
        if row.decided is not None:
            colour = ink().of(DECISION_COLOURS[row.decided.decision])
            stamp = QRectF(box.left() + 4, box.center().y() - 11, box.width() - 8, 22)
            draw_stamp(painter, stamp, listed.words.decision.upper(), colour, dashed=row.pencilled)


def _line(painter: QPainter, box: QRectF, text: str, font: Any, colour: str) -> None:
    painter.setFont(font)
    painter.setPen(ink().of(colour))
    short = QFontMetrics(font).elidedText(text, Qt.TextElideMode.ElideRight, int(box.width()))
    painter.drawText(box, Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignLeft, short)
