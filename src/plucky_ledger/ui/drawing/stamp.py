"""A decision or a verdict as an outlined word."""

from collections.abc import Iterable

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QFontMetrics, QPainter, QPen

from plucky_ledger.ui.drawing import STROKE
from plucky_ledger.ui.theme import scaled_font

SCALE = 0.82
"""Of its letters, against the desktop's own."""
AIR = 22
"""Pixels beside the longest word, on both sides together."""


def stamp_width(words: Iterable[str]) -> int:
    """Width of a stamp into which each of some words fits, in pixels."""
    metrics = QFontMetrics(scaled_font(SCALE, bold=True))
    return max(metrics.horizontalAdvance(word.upper()) for word in words) + AIR


def draw_stamp(painter: QPainter, box: QRectF, text: str, colour: QColor, dashed: bool) -> None:
    """A decision as an outlined word; dashed while it is only pencilled."""
    line = Qt.PenStyle.DashLine if dashed else Qt.PenStyle.SolidLine
    painter.setPen(QPen(colour, STROKE, line))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRoundedRect(box, 2, 2)
    painter.setFont(scaled_font(SCALE, bold=True))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
