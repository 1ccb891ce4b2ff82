"""The Entries lens: what starts by itself, as far as the chosen boot tells."""

from html import escape

from PySide6.QtCore import Qt
from PySide6.QtGui import QBrush, QStandardItem, QStandardItemModel
from PySide6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QPushButton,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from plucky_ledger.bench.entries_page import EntriesPage, EntryRow, entries_page
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.theme import ink, named, title_font

HEADINGS = ("what starts by itself", "what starts it", "began at", "took")


class EntriesLens(QWidget):
    """A list of entries and a card that explains the selected one."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self._page: EntriesPage | None = None
        self._rows: tuple[EntryRow, ...] = ()
        self.model = QStandardItemModel(0, len(HEADINGS))
        self.table = QTableView()
        self.table.setModel(self.model)
        self.table.setAccessibleName("Startup entries")
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setShowGrid(False)
        self.table.verticalHeader().hide()
        self.table.selectionModel().currentRowChanged.connect(self._show_card)
        self._fold = QPushButton()
        self._fold.setCheckable(True)
        self._fold.toggled.connect(self._fill)
        self._note = QLabel()
        self._note.setWordWrap(True)
        self._note.setProperty("quiet", True)
        self._card_title = QLabel()
        self._card_title.setFont(title_font(1.4))
        self._card_title.setWordWrap(True)
        self._card = QLabel()
        self._card.setTextFormat(Qt.TextFormat.RichText)
        self._card.setWordWrap(True)
        self._card.setAlignment(Qt.AlignmentFlag.AlignTop)
        self._lay_out()

    def _lay_out(self) -> None:
        left = QVBoxLayout()
        left.setContentsMargins(14, 8, 8, 10)
        left.addWidget(self.table, 1)
        left.addWidget(self._fold, 0, Qt.AlignmentFlag.AlignLeft)
        left.addWidget(self._note)
        self._side = named("side")
        self._side.setFixedWidth(230)
        side = QVBoxLayout(self._side)
        side.setContentsMargins(14, 14, 14, 10)
        side.addWidget(self._card_title)
        side.addWidget(self._card, 1)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(left, 1)
        layout.addWidget(self._side)

    def refresh(self) -> None:
        """Show the chosen boot's entries."""
        boot, timeline = self._desk.boot, self._desk.timeline(self._desk.boot)
        if boot is not None and timeline is None:
            return
        self._page = entries_page(boot, timeline) if boot and timeline else None
        self._fill()

    def _fill(self) -> None:
        page = self._page
        has_rows = page is not None and bool(page.rows or page.system_rows)
        self.table.setVisible(has_rows)
        self._side.setVisible(has_rows)
        self._fold.setVisible(page is not None and bool(page.system_rows))
        self._note.setText(page.note if page else "No boot yet. Record one with Ctrl+R.")
        unfolded = self._fold.isChecked()
        self._rows = () if page is None else page.rows + (page.system_rows if unfolded else ())
        if page is not None:
            self._fold.setText(f"{'Fold away' if unfolded else 'Show'} {page.system_line}")
        self.model.clear()
        self.model.setHorizontalHeaderLabels(HEADINGS)
        for row in self._rows:
            self.model.appendRow(_items(row))
        header = self.table.horizontalHeader()
        header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft)
        for column in (0, 2, 3):
            header.setSectionResizeMode(column, QHeaderView.ResizeMode.ResizeToContents)
        header.setSectionResizeMode(1, QHeaderView.ResizeMode.Stretch)
        if self._rows:
            self.table.selectRow(0)

    def _show_card(self) -> None:
        index = self.table.currentIndex().row()
        if not 0 <= index < len(self._rows):
            return
        row = self._rows[index]
        self._card_title.setText(row.name)
        self._card_title.setTextFormat(Qt.TextFormat.PlainText)
        self._card.setText(
            "".join(f"<p><b>{escape(head)}</b><br>{_breakable(text)}</p>"
                    for head, text in row.card)
        )  # fmt: skip


def _breakable(text: str) -> str:
    """Long paths may break after a slash."""
    return escape(text).replace("/", "/\u200b")


def _items(row: EntryRow) -> list[QStandardItem]:
    items = [QStandardItem(text) for text in (row.name, row.about, row.began, row.took)]
    font = items[0].font()
    font.setBold(True)
    items[0].setFont(font)
    items[1].setForeground(QBrush(ink().of("pencil")))
    for item in items[2:]:
        item.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
    return items
