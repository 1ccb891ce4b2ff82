"""A table of rows under headings: what the lists of entries and of load have in common."""

from typing import Any

from PySide6.QtCore import (
    QAbstractItemModel,
    QAbstractTableModel,
    QModelIndex,
    QPersistentModelIndex,
    Qt,
)
from PySide6.QtWidgets import QAbstractItemView, QTableView

from plucky_ledger.wording.language import say

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
    table.horizontalHeader().setHighlightSections(False)


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
