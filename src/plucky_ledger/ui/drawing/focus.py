"""Where the keyboard is, in views that paint themselves."""

from PySide6.QtCore import QRect, Qt
from PySide6.QtGui import QPainter, QPen

from plucky_ledger.ui.theme import ink


def draw_focus(painter: QPainter, box: QRect) -> None:
    """A frame just within a view."""
    painter.setPen(QPen(ink().of("saved"), 2))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(box.adjusted(1, 1, -1, -1))
