"""Rows of a list chosen anew, with whichever Qt there is."""

from collections.abc import Iterator
from contextlib import contextmanager

from PySide6.QtCore import QSortFilterProxyModel


@contextmanager
def choosing_anew(model: QSortFilterProxyModel) -> Iterator[None]:
    """What its rows are chosen by changes within."""
    if not hasattr(model, "beginFilterChange"):  # Qt before 6.9
        yield
        model.invalidateFilter()
        return
    model.beginFilterChange()
    yield
    model.endFilterChange()
