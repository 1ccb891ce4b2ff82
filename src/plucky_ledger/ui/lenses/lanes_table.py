"""The lanes as a table."""

from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHeaderView, QTableView

from plucky_ledger.pages.lanes import LanesPage
from plucky_ledger.pages.lanes_table import LanesRow, lanes_table
from plucky_ledger.ui.lenses.headed_model import ROW_ROLE, HeadedModel, Index, prepare
from plucky_ledger.wording.lanes import TABLE_HEADS, table_row
from plucky_ledger.wording.language import say


class LanesModel(HeadedModel):
    """A row for each lane."""

    rows: tuple[LanesRow, ...]

    def __init__(self) -> None:
        super().__init__(TABLE_HEADS)

    def show_pages(self, front: LanesPage | None, behind: LanesPage | None) -> None:
        """Show a boot, with what lies over it in brackets."""
        self.beginResetModel()
        self.rows = lanes_table(front, behind) if front is not None else ()
        self.endResetModel()

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if not index.isValid():
            return None
        row = self.rows[index.row()]
        if role == ROW_ROLE:
            return row
        if role == Qt.ItemDataRole.DisplayRole:
            return table_row(row)[index.column()]
        if role == Qt.ItemDataRole.TextAlignmentRole and index.column() > 0:
            return int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        if role == Qt.ItemDataRole.AccessibleTextRole:
            return table_row(row, spoken=True)[index.column()]
        return None

    def headerData(
        self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole
    ) -> Any:
        if role == Qt.ItemDataRole.TextAlignmentRole and section == 0:
            return int(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        return super().headerData(section, orientation, role)


class LanesTable(QTableView):
    """What the lanes draw, as figures."""

    def __init__(self) -> None:
        super().__init__()
        self.shown = LanesModel()
        prepare(self, self.shown, say("Lanes of the boot as a table"))
        header = self.horizontalHeader()
        header.setDefaultAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        header.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        header.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)

    def choose(self, entry_id: str) -> None:
        """Select an entry's row."""
        ids = [row.front.lane.entry_id for row in self.shown.rows]
        if entry_id in ids:
            self.selectRow(ids.index(entry_id))

    @property
    def chosen(self) -> str:
        """Entry of the selected row."""
        row: LanesRow | None = self.currentIndex().data(ROW_ROLE)
        return row.front.lane.entry_id if row is not None else ""
