"""A table of rows under headings: what the lists of entries and of load have in common."""

from typing import Any

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, Qt

from plucky_ledger.wording.language import say

Index = QModelIndex | QPersistentModelIndex
ROW_ROLE = Qt.ItemDataRole.UserRole + 2


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
