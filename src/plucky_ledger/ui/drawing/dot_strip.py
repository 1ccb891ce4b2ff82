"""Dot strips: one ring per boot on an axis, with a bar at the typical value."""

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from plucky_ledger.core.values.axes import Axis, Span
from plucky_ledger.pages.book import Dot
from plucky_ledger.ui.drawing import STROKE


def draw_dots(
    painter: QPainter,
    box: QRectF,
    dots: tuple[Dot, ...],
    typical: float | None,
    span: Span,
    colour: QColor,
    rule: QColor,
) -> None:
    """A dot strip: one ring per boot on the axis ``span``, and a bar at the typical value."""
    middle, axis = box.center().y(), _axis(box, span)
    painter.setPen(QPen(rule, 1))
    painter.drawLine(QPointF(box.left(), middle), QPointF(box.right(), middle))
    painter.setPen(QPen(colour, STROKE))
    for dot in dots:
        centre = QPointF(axis.place(dot.value), middle)
        painter.drawEllipse(centre, 3.2, 3.2)
        if dot.aside:
            painter.drawLine(centre + QPointF(-4.5, 4.5), centre + QPointF(4.5, -4.5))
        if dot.censored:
            painter.drawLine(centre + QPointF(3.2, 0), centre + QPointF(9, 0))
            painter.drawLine(centre + QPointF(9, 0), centre + QPointF(6, -3))
            painter.drawLine(centre + QPointF(9, 0), centre + QPointF(6, 3))
    if typical is not None:
        painter.setPen(QPen(colour, 2.4))
        x = axis.place(typical)
        painter.drawLine(QPointF(x, middle - 6), QPointF(x, middle + 6))


def draw_expected(painter: QPainter, box: QRectF, value: float, span: Span, colour: QColor) -> None:
    """A dotted bar on a dot strip: where the balance is expected to stand."""
    painter.setPen(QPen(colour, 2.4, Qt.PenStyle.DotLine))
    x = _axis(box, span).place(value)
    painter.drawLine(QPointF(x, box.center().y() - 6), QPointF(x, box.center().y() + 6))


def _axis(box: QRectF, span: Span) -> Axis:
    return Axis(*span, box.left(), box.right())
