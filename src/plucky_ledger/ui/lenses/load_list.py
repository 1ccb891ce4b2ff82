"""The list of who used what: its model, and how a row of two lines is painted."""

from dataclasses import dataclass
from typing import Any

from PySide6.QtCore import QRectF, QSize, QSortFilterProxyModel, Qt
from PySide6.QtGui import QBrush, QFont, QFontMetrics, QPainter, QPen
from PySide6.QtWidgets import QStyle, QStyledItemDelegate, QStyleOptionViewItem

from plucky_ledger.core.values.alphabet import in_alphabet
from plucky_ledger.pages.load import LoadAnswer, LoadRow
from plucky_ledger.ui.drawing.reading_order import rest_after
from plucky_ledger.ui.filtering import choosing_anew
from plucky_ledger.ui.lenses.headed_model import ROW_ROLE, HeadedModel, Index
from plucky_ledger.ui.text import tip
from plucky_ledger.ui.theme import ink, scaled_font
from plucky_ledger.wording.language import N_
from plucky_ledger.wording.load import LoadWords, load_in_words, spoken_cells

HEADINGS = (N_("name"), N_("CPU·s"), N_("memory held"), N_("read, written"), N_("processes"))
AMOUNT_ROLE = Qt.ItemDataRole.UserRole + 1
BAR_COLOURS = ("cpu", "memory", "disk", "processes")
LEAST_SHARE = 0.08
"""Share of the largest figure from which a bar says something."""
BAR_PIXELS = 2.5


@dataclass(frozen=True)
class ListedProgram:
    """A row with its words."""

    row: LoadRow
    words: LoadWords

    @property
    def key(self) -> tuple[str, str, str]:
        """What it is known by when the list is read again."""
        return self.row.name, self.row.kind, self.row.command.split(" ", 1)[0]


def in_words(answer: LoadAnswer) -> tuple[LoadAnswer, tuple[ListedProgram, ...]]:
    """An answer with the words of its rows, which are found off the window's thread as well."""
    return answer, tuple(ListedProgram(row, load_in_words(row)) for row in answer.page.rows)


class LoadModel(HeadedModel):
    """The rows of one page."""

    rows: tuple[ListedProgram, ...]

    def __init__(self) -> None:
        super().__init__(HEADINGS)

    def show_rows(self, rows: tuple[ListedProgram, ...]) -> None:
        """Show other rows."""
        self.beginResetModel()
        self.rows = rows
        self.endResetModel()

    def headerData(
        self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole
    ) -> Any:
        if role == Qt.ItemDataRole.TextAlignmentRole and section > 0:
            return int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        if role == Qt.ItemDataRole.InitialSortOrderRole and section > 0:
            return int(Qt.SortOrder.DescendingOrder.value)
        return super().headerData(section, orientation, role)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if not index.isValid():
            return None
        listed, column = self.rows[index.row()], index.column()
        words = listed.words
        if role == ROW_ROLE:
            return listed
        if role == AMOUNT_ROLE:
            return in_alphabet(words.name) if column == 0 else tuple(listed.row.amounts)[column - 1]
        if role == Qt.ItemDataRole.DisplayRole:
            return (words.name, *words.figures)[column]
        if role == Qt.ItemDataRole.AccessibleTextRole:
            return spoken_cells(words)[column]
        if role == Qt.ItemDataRole.ToolTipRole and column == 0:
            return tip(f"{words.name}\n{words.remark}\n{words.about}")
        return None


class LoadOrder(QSortFilterProxyModel):
    """The rows whose words contain what is looked for, the largest first."""

    def __init__(self, model: LoadModel) -> None:
        super().__init__()
        self._wanted = ""
        self.setSourceModel(model)
        self.setSortRole(AMOUNT_ROLE)

    def look_for(self, wanted: str) -> None:
        """Only rows that contain this."""
        with choosing_anew(self):
            self._wanted = wanted

    def filterAcceptsRow(self, row: int, parent: Index) -> bool:
        listed: ListedProgram = self.sourceModel().index(row, 0, parent).data(ROW_ROLE)
        return not self._wanted or listed.words.has(self._wanted)


class LoadDelegate(QStyledItemDelegate):
    """Name and what it is; a figure with a fine bar under it where that says something."""

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        big, small = (QFontMetrics(scaled_font(scale)).height() for scale in (1.0, 0.82))
        return QSize(60, big + small + 9)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        listed: ListedProgram = index.data(ROW_ROLE)
        box = QRectF(option.rect)
        painter.save()
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(box, ink().of("wash"))
        painter.setPen(QPen(ink().of("faint"), 1))
        painter.drawLine(box.bottomLeft(), box.bottomRight())
        if index.column() == 0:
            self._who(painter, box.adjusted(4, 3, -8, -3), listed.words)
        else:
            self._figure(painter, box.adjusted(4, 3, -10, -3), listed, index.column() - 1)
        painter.restore()

    @staticmethod
    def _who(painter: QPainter, box: QRectF, words: LoadWords) -> None:
        bold, plain, small = scaled_font(1.0, bold=True), scaled_font(0.88), scaled_font(0.82)
        end = _line(painter, box, words.name, bold, "ink")
        if words.remark:
            rest = rest_after(box, end + 10)
            _line(painter, rest, words.remark, plain, "saved")
        box.setTop(box.top() + QFontMetrics(bold).height() + 1)
        _line(painter, box, words.about, small, "pencil")

    @staticmethod
    def _figure(painter: QPainter, box: QRectF, listed: ListedProgram, column: int) -> None:
        row, colours = listed.row, ink()
        big, small = scaled_font(1.0), scaled_font(0.82)
        colour = "pencil" if row.outside else "ink"
        _line(painter, box, listed.words.figures[column], big, colour, right=True)
        share = row.shares[column]
        top = box.top() + QFontMetrics(big).height() + 2
        if column == 2 and listed.words.written:
            below = QRectF(box.left(), top - 1, box.width(), box.bottom() - top + 3)
            _line(painter, below, listed.words.written, small, "pencil", right=True)
        elif share >= LEAST_SHARE and (column < 3 or row.amounts.processes > 1):
            pattern = Qt.BrushStyle.BDiagPattern if row.outside else Qt.BrushStyle.SolidPattern
            wide = box.width() * share
            bar = QRectF(box.right() - wide, top + 2, wide, BAR_PIXELS)
            painter.fillRect(bar, QBrush(colours.of(BAR_COLOURS[column]), pattern))


def _line(
    painter: QPainter, box: QRectF, text: str, font: QFont, colour: str, right: bool = False
) -> float:
    """One line of text, cut where there is no room; returns how wide it is."""
    painter.setFont(font)
    painter.setPen(ink().of(colour))
    metrics = QFontMetrics(font)
    short = metrics.elidedText(text, Qt.TextElideMode.ElideRight, max(0, int(box.width())))
    side = Qt.AlignmentFlag.AlignRight if right else Qt.AlignmentFlag.AlignLeft
    painter.drawText(box, Qt.AlignmentFlag.AlignTop | side, short)
    return float(metrics.horizontalAdvance(short))
