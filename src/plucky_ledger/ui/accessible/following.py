"""Where something is chosen without the keyboard, the keyboard's place comes along."""

from PySide6.QtCore import QItemSelection, QTimer
from PySide6.QtWidgets import QAbstractItemView


def keyboard_follows(view: QAbstractItemView) -> None:
    """A program that reads out chooses a row and presses no key: the row becomes the current one.

    To be called once the view has its model.
    """

    def follow(chosen: QItemSelection, _before: QItemSelection) -> None:
        rows = {index.row() for index in chosen.indexes()}
        if rows:  # a key or the mouse moves the current row as well, in the same breath
            QTimer.singleShot(0, view, lambda: _come_along(view, rows))

    view.selectionModel().selectionChanged.connect(follow)


def _come_along(view: QAbstractItemView, rows: set[int]) -> None:
    """The current row is one of those just chosen; where several can be, one of all chosen."""
    selection = view.selectionModel()
    chosen = {index.row() for index in selection.selectedIndexes()}
    single = view.selectionMode() is QAbstractItemView.SelectionMode.SingleSelection
    there = rows & chosen
    if there and view.currentIndex().row() not in (there if single else chosen):
        view.setCurrentIndex(view.model().index(min(there), 0))
