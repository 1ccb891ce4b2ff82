"""A table of rows under headings: what the lists of entries and of load have in common."""

from typing import Any

from PySide6.QtCore import (
    QAbstractItemModel,
    QAbstractTableModel,
    QModelIndex,
    QPersistentModelIndex,
    Qt,
)
from PySide6.QtGui import QGuiApplication, QKeySequence, QShortcut
from PySide6.QtWidgets import QAbstractItemView, QTableView

from plucky_ledger.ui.accessible.following import keyboard_follows
from plucky_ledger.wording.language import say
from plucky_ledger.wording.safe import as_cell

Index = QModelIndex | QPersistentModelIndex
ROW_ROLE = Qt.ItemDataRole.UserRole + 2


def prepare(table: QTableView, model: QAbstractItemModel, name: str) -> None:
    """Have a table show rows: chosen as wholes, left by Tab, without a grid and row numbers."""
    table.setModel(model)
    table.setAccessibleName(name)
    table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
    table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
    table.setShowGrid(False)
    table.setTabKeyNavigation(False)
    table.verticalHeader().hide()
    keyboard_follows(table)
    table.horizontalHeader().setHighlightSections(False)
    copy = QShortcut(QKeySequence(QKeySequence.StandardKey.Copy), table)
    copy.setContext(Qt.ShortcutContext.WidgetShortcut)
    copy.activated.connect(lambda: copy_row(table))


def copy_row(table: QTableView) -> None:
    """The chosen row as text, its cells parted by tabs, as spreadsheets take it."""
    row = table.currentIndex().row()
    model = table.model()
    if row >= 0 and model is not None:
        QGuiApplication.clipboard().setText("\t".join(cells_of(model, row)))


def cells_of(model: QAbstractItemModel, row: int) -> list[str]:
    """What stands in a row, fit for a spreadsheet."""
    return [
        as_cell(str(model.index(row, column).data(Qt.ItemDataRole.DisplayRole) or ""))
        for column in range(model.columnCount())
    ]


class HeadedModel(QAbstractTableModel):
    """Rows of one kind; a subclass says what stands in each column."""

    def __init__(self, headings: tuple[str, ...]) -> None:
        super().__init__()
        self._headings = headings
        self.rows: tuple[Any, ...] = ()

    def rowCount(self, parent: Index | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(self.rows)

    def columnCount(self, parent: Index | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(self._headings)

    def headerData(
        self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole
    ) -> Any:
        if role == Qt.ItemDataRole.DisplayRole and orientation is Qt.Orientation.Horizontal:
            return say(self._headings[section])
        return None
