"""Lines of the book as a list: those folded away are hidden, and the balance is the last."""

from typing import Any

from PySide6.QtCore import QAbstractListModel, QModelIndex, QPersistentModelIndex, Qt

from plucky_ledger.pages.book import BookPage, BookRow
from plucky_ledger.pages.folds import folded_row, folds_of
from plucky_ledger.wording.book import RowWords, closing, folded_in_words, row_in_words
from plucky_ledger.wording.language import say

Index = QModelIndex | QPersistentModelIndex


class BookModel(QAbstractListModel):
    """The rows of the book, and the balance as last row."""

    def __init__(self) -> None:
        super().__init__()
        self.page: BookPage | None = None
        self.rows: tuple[BookRow, ...] = ()
        """The lines as they are shown; the last of a fold stands for all of it."""
        self.words: tuple[RowWords, ...] = ()
        """The same in words."""
        self.folded_away: frozenset[int] = frozenset()
        """Lines for which another stands."""
        self.unfolded = False

    def show_page(self, page: BookPage | None) -> None:
        """Show another page."""
        self.beginResetModel()
        self.page = page
        rows = list(page.rows) if page else []
        words = [row_in_words(row) for row in rows]
        folds = () if self.unfolded else folds_of(rows)
        for fold in folds:
            rows[fold.last] = folded_row(rows, fold)
            words[fold.last] = folded_in_words(rows[fold.last], fold)
        self.folded_away = frozenset(
            line for fold in folds for line in range(fold.first, fold.last)
        )
        self.rows, self.words = tuple(rows), tuple(words)
        self.endResetModel()

    def rowCount(self, parent: Index | None = None) -> int:
        if self.page is None or (parent is not None and parent.isValid()):
            return 0
        return len(self.page.rows) + 1

    def row(self, index: Index) -> BookRow | None:
        """The row at an index; None for the balance at the foot."""
        return self.rows[index.row()] if index.row() < len(self.rows) else None

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if not index.isValid() or self.page is None:
            return None
        if role in (
            Qt.ItemDataRole.DisplayRole,
            Qt.ItemDataRole.AccessibleTextRole,
        ):
            if self.row(index) is not None:
                return self.words[index.row()].spoken
            return say("Balance {amount}", amount=closing(self.page))
        if role == Qt.ItemDataRole.AccessibleDescriptionRole and self.row(index) is not None:
            return self.words[index.row()].boots
        return None
