"""The list of the book's lines, and the same of its balance alone."""

from PySide6.QtCore import QModelIndex, Qt
from PySide6.QtWidgets import QAbstractItemView, QListView

from plucky_ledger.ui.book.book_delegate import BookDelegate
from plucky_ledger.ui.book.book_model import BookModel


class BookLines(QListView):
    """Lines of the book; all but the last of them, or that alone.

    Two of these with one selection stand below each other: the balance never scrolls away.
    """

    def __init__(self, model: BookModel, balance_alone: bool) -> None:
        super().__init__()
        self._balance_alone = balance_alone
        self.setModel(model)
        self.setItemDelegate(BookDelegate(self))
        self.setResizeMode(QListView.ResizeMode.Adjust)
        self.setVerticalScrollMode(QListView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)

    def show_own_rows(self) -> None:
        """Hide what the other one shows, after the model has changed."""
        model = self.model()
        assert isinstance(model, BookModel)
        last = model.rowCount() - 1
        for row in range(last + 1):
            elsewhere = (row == last) is not self._balance_alone
            self.setRowHidden(row, elsewhere or row in model.folded_away)
        self.fit()

    def fit(self) -> None:
        """No higher than its rows."""
        rows = range(self.model().rowCount())
        heights = [self.sizeHintForRow(row) for row in rows if not self.isRowHidden(row)]
        self.setMaximumHeight(max(1, sum(heights)))
        if self._balance_alone:
            self.setMinimumHeight(self.maximumHeight())

    def keep_free(self, width: int) -> None:
        """Nothing at the right, where the other one has its scroll bar."""
        self.setViewportMargins(0, 0, width, 0)

    def moveCursor(
        self, action: QAbstractItemView.CursorAction, modifiers: Qt.KeyboardModifier
    ) -> QModelIndex:
        """By the keyboard both are one list."""
        model, at = self.model(), self.currentIndex().row()
        assert isinstance(model, BookModel)
        shown = [row for row in range(model.rowCount()) if row not in model.folded_away]
        to = {
            QAbstractItemView.CursorAction.MoveUp: [row for row in shown if row < at][-1:],
            QAbstractItemView.CursorAction.MoveDown: [row for row in shown if row > at][:1],
            QAbstractItemView.CursorAction.MoveHome: shown[:1],
            QAbstractItemView.CursorAction.MoveEnd: shown[-1:],
        }.get(action)
        if to is None:
            return super().moveCursor(action, modifiers)
        return model.index(to[0], 0) if to else self.currentIndex()
