"""Places in a box counted from where reading begins: at the left, or mirrored at the right."""

from PySide6.QtCore import QPointF, QRect, QRectF, Qt
from PySide6.QtGui import QGuiApplication, QPainter


def mirrored() -> bool:
    """Whether what is read begins at the right."""
    return QGuiApplication.layoutDirection() is Qt.LayoutDirection.RightToLeft


def begins_at(box: QRect | QRectF, at: float, wide: float = 0.0) -> float:
    """Left edge of something ``wide``, in pixels, that begins ``at`` pixels into a box."""
    return box.left() + (box.width() - at - wide if mirrored() else at)


def rest_after(box: QRectF, used: float) -> QRectF:
    """What is left of a box after so many pixels."""
    return box.adjusted(0, 0, -used, 0) if mirrored() else box.adjusted(used, 0, 0, 0)


def write(
    painter: QPainter,
    box: QRect | QRectF,
    at: float,
    baseline: float,
    text: str,
    ends: bool = False,
) -> None:
    """One line of text that begins, or ``ends``, ``at`` pixels into a box."""
    wide = painter.fontMetrics().horizontalAdvance(text)
    painter.drawText(QPointF(begins_at(box, at - wide if ends else at, wide), baseline), text)
