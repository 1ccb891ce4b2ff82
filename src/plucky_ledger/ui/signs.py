"""Small drawn signs, all in one stroke weight."""

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from plucky_ledger.core.book.job import PostingState
from plucky_ledger.pages.book import Dot
from plucky_ledger.ui.theme import scaled_font

STROKE = 1.4


def draw_state(painter: QPainter, at: QPointF, state: PostingState | None, colour: QColor) -> None:
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


def draw_dots(
    painter: QPainter,
    box: QRectF,
    dots: tuple[Dot, ...],
    typical: float | None,
    span: tuple[float, float],
    colour: QColor,
    rule: QColor,
) -> None:
    """A dot strip: one ring per boot on the axis ``span``, and a bar at the typical value."""
    middle = box.center().y()
    painter.setPen(QPen(rule, 1))
    painter.drawLine(QPointF(box.left(), middle), QPointF(box.right(), middle))
    painter.setPen(QPen(colour, STROKE))
    for dot in dots:
        centre = QPointF(_place(box, span, dot.value), middle)
        painter.drawEllipse(centre, 3.2, 3.2)
        if dot.aside:
            painter.drawLine(centre + QPointF(-4.5, 4.5), centre + QPointF(4.5, -4.5))
        if dot.censored:
            painter.drawLine(centre + QPointF(3.2, 0), centre + QPointF(9, 0))
            painter.drawLine(centre + QPointF(9, 0), centre + QPointF(6, -3))
            painter.drawLine(centre + QPointF(9, 0), centre + QPointF(6, 3))
    if typical is not None:
        painter.setPen(QPen(colour, 2.4))
        x = _place(box, span, typical)
        painter.drawLine(QPointF(x, middle - 6), QPointF(x, middle + 6))


def draw_expected(
    painter: QPainter, box: QRectF, value: float, span: tuple[float, float], colour: QColor
) -> None:
    """A dotted bar on a dot strip: where the balance is expected to stand."""
    painter.setPen(QPen(colour, 2.4, Qt.PenStyle.DotLine))
    x = _place(box, span, value)
    painter.drawLine(QPointF(x, box.center().y() - 6), QPointF(x, box.center().y() + 6))


def _place(box: QRectF, span: tuple[float, float], value: float) -> float:
    """Where a value lies on a dot strip."""
    low, high = span
    return box.left() + (value - low) * (box.width() / (high - low) if high > low else 0.0)


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


def draw_stamp(painter: QPainter, box: QRectF, text: str, colour: QColor, dashed: bool) -> None:
    """A decision as an outlined word; dashed while it is only pencilled."""
    line = Qt.PenStyle.DashLine if dashed else Qt.PenStyle.SolidLine
    painter.setPen(QPen(colour, STROKE, line))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRoundedRect(box, 2, 2)
    painter.setFont(scaled_font(0.82, bold=True))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
