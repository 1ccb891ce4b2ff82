"""The sign before a line of the book."""

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from plucky_ledger.core.job.postings import PostingState
from plucky_ledger.ui.drawing import STROKE


def draw_posting_sign(
    painter: QPainter, at: QPointF, state: PostingState | None, colour: QColor
) -> None:
    """The sign before a line of the book: opening, pencilled, posted, in force, struck out."""
    painter.setPen(QPen(colour, STROKE))
    box = QRectF(at.x() - 4, at.y() - 4, 8, 8)
    match state:
        case None:
            painter.setBrush(colour)
            painter.drawEllipse(box)
        case PostingState.IN_FORCE:
            painter.setBrush(colour)
            painter.drawRect(box)
        case PostingState.STRUCK_OUT:
            painter.drawLine(box.topLeft(), box.bottomRight())
            painter.drawLine(box.topRight(), box.bottomLeft())
        case PostingState.POSTED:
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(box)
            painter.setBrush(colour)
            painter.drawRect(QRectF(box.left(), box.center().y(), 8, 4))
        case PostingState.PENCILLED:
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(box)
    painter.setBrush(Qt.BrushStyle.NoBrush)
