"""A grade as a small stack of discs."""

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPen


def draw_discs(painter: QPainter, x: float, middle: float, count: int, colour: QColor) -> None:
    """A grade as a small stack of discs; a dashed ring when there is none."""
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if count == 0:
        painter.setPen(QPen(colour, 1.1, Qt.PenStyle.DotLine))
        painter.drawEllipse(QPointF(x, middle), 5.5, 5.5)
        return
    painter.setPen(QPen(colour, 1.1))
    for index in range(count):
        painter.drawEllipse(QPointF(x, middle + 4.5 * ((count - 1) / 2 - index)), 6.5, 2.6)
