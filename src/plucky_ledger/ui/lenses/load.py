"""The Load lens: who used CPU, memory, disk and processes."""

from typing import Any

from PySide6.QtCore import (
    QAbstractTableModel,
    QModelIndex,
    QPersistentModelIndex,
    QRectF,
    QSortFilterProxyModel,
    Qt,
)
from PySide6.QtGui import QBrush, QPainter
from PySide6.QtWidgets import (
    QAbstractItemView,
    QButtonGroup,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QLineEdit,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from plucky_ledger.bench.load_page import LoadPage, LoadRow, Span, load_page
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.theme import choice_button, ink

Index = QModelIndex | QPersistentModelIndex
HEADINGS = ("program", "CPU·s", "memory held", "read", "processes")
AMOUNT_ROLE = Qt.ItemDataRole.UserRole + 1
ROW_ROLE = Qt.ItemDataRole.UserRole + 2
BAR_COLOURS = ("cpu", "memory", "disk", "processes")


class LoadModel(QAbstractTableModel):
    """The rows of one page."""

    def __init__(self) -> None:
        super().__init__()
        self.rows: tuple[LoadRow, ...] = ()

    def show_rows(self, rows: tuple[LoadRow, ...]) -> None:
        """Show other rows."""
        self.beginResetModel()
        self.rows = rows
        self.endResetModel()

    def rowCount(self, parent: Index | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(self.rows)

    def columnCount(self, parent: Index | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(HEADINGS)

    def headerData(
        self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole
    ) -> Any:
        if role == Qt.ItemDataRole.DisplayRole and orientation is Qt.Orientation.Horizontal:
            return HEADINGS[section]
        return None

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if not index.isValid():
            return None
        row, column = self.rows[index.row()], index.column()
        if role == ROW_ROLE:
            return row
        if column == 0:
            name = f"{row.name} · measuring" if row.own else row.name
            texts = {Qt.ItemDataRole.DisplayRole: name, AMOUNT_ROLE: row.name.casefold(),
                     Qt.ItemDataRole.ToolTipRole: row.command}  # fmt: skip
            return texts.get(Qt.ItemDataRole(role)) if role != AMOUNT_ROLE else texts[AMOUNT_ROLE]
        if role == Qt.ItemDataRole.DisplayRole:
            return row.figures[column - 1]
        if role == AMOUNT_ROLE:
            return row.amounts[column - 1]
        return None


class BarDelegate(QStyledItemDelegate):
    """A bar with its figure; hatched for what the measurement itself caused."""

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        row: LoadRow = index.data(ROW_ROLE)
        colours = ink()
        box = QRectF(option.rect)
        painter.save()
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(box, colours.of("wash"))
        colour = colours.of(BAR_COLOURS[index.column() - 1])
        colour.setAlpha(130)
        share = row.shares[index.column() - 1]
        bar = QRectF(box.left() + 4, box.top() + 6, (box.width() * 0.5) * share, box.height() - 12)
        pattern = Qt.BrushStyle.BDiagPattern if row.own else Qt.BrushStyle.SolidPattern
        painter.fillRect(bar, QBrush(colour, pattern))
        painter.setPen(colours.of("pencil" if row.own else "ink"))
        painter.drawText(
            box.adjusted(0, 0, -10, 0),
            Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
            row.figures[index.column() - 1],
        )
        painter.restore()


class LoadLens(QWidget):
    """Shows the programs of the chosen boot."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self._span = Span.STARTUP
        self.model = LoadModel()
        self._sorted = QSortFilterProxyModel()
        self._sorted.setSourceModel(self.model)
        self._sorted.setSortRole(AMOUNT_ROLE)
        self._sorted.setFilterCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        self.table = QTableView()
        self.table.setModel(self._sorted)
        self.table.setSortingEnabled(True)
        self.table.sortByColumn(1, Qt.SortOrder.DescendingOrder)
        self.table.setAccessibleName("Programs and what they used")
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.table.setShowGrid(False)
        self.table.verticalHeader().hide()
        self._bars = BarDelegate(self.table)
        for column in range(1, len(HEADINGS)):
            self.table.setItemDelegateForColumn(column, self._bars)
        header = self.table.horizontalHeader()
        header.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        for column in range(1, len(HEADINGS)):
            self.table.setColumnWidth(column, 122)
        self.table.selectionModel().currentRowChanged.connect(self._show_command)
        self._sums = QLabel()
        self._summary = QLabel()
        self._summary.setWordWrap(True)
        self._summary.setProperty("quiet", True)
        self._command = QLabel()
        self._command.setTextFormat(Qt.TextFormat.PlainText)
        self._command.setWordWrap(True)
        self._search = QLineEdit()
        self._search.setPlaceholderText("find a program")
        self._search.setAccessibleName("Find a program")
        self._search.setMaximumWidth(200)
        self._search.textChanged.connect(self._sorted.setFilterFixedString)
        self._lay_out()

    def _lay_out(self) -> None:
        choice = QHBoxLayout()
        self._spans = QButtonGroup(self)
        for span in Span:
            button = choice_button(str(span))
            button.setChecked(span is self._span)
            button.clicked.connect(lambda _on, span=span: self._choose(span))
            self._spans.addButton(button)
            choice.addWidget(button)
        choice.addStretch(1)
        choice.addWidget(self._search)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(14, 6, 14, 10)
        layout.addLayout(choice)
        layout.addWidget(self.table, 1)
        layout.addWidget(self._command)
        layout.addWidget(self._sums)
        layout.addWidget(self._summary)

    def _choose(self, span: Span) -> None:
        self._span = span
        self.refresh()

    def refresh(self) -> None:
        """Show the chosen boot's programs."""
        boot, timeline = self._desk.boot, self._desk.timeline(self._desk.boot)
        if boot is not None and timeline is None:
            return
        page = load_page(boot, timeline, self._span) if boot and timeline else _NO_BOOT
        self.model.show_rows(page.rows)
        self.table.setVisible(bool(page.rows))
        self._command.setText("")
        self._sums.setVisible(bool(page.rows))
        self._sums.setText(
            f"<b>In all</b> {page.sums[0]} CPU·s · {page.sums[1]} held · {page.sums[2]} read"
        )
        self._summary.setText(page.note or page.summary)

    def _show_command(self) -> None:
        row = self.table.currentIndex().data(ROW_ROLE)
        self._command.setText(row.command if row else "")


_NO_BOOT = LoadPage((), ("", "", "", ""), "", "No boot yet. Record one with Ctrl+R.")
