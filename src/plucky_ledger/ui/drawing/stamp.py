"""A decision or a verdict as an outlined word."""

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from plucky_ledger.ui.drawing import STROKE
from plucky_ledger.ui.theme import scaled_font


def draw_stamp(painter: QPainter, box: QRectF, text: str, colour: QColor, dashed: bool) -> None:
    """A decision as an outlined word; dashed while it is only pencilled."""
    line = Qt.PenStyle.DashLine if dashed else Qt.PenStyle.SolidLine
    painter.setPen(QPen(colour, STROKE, line))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRoundedRect(box, 2, 2)
    painter.setFont(scaled_font(0.82, bold=True))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
