"""Small evidence charts: a curve over time, a level, a share of a total."""

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from plucky_ledger.core.advice.finding import Curve, Drawing, Gauge, Stretch, Tally
from plucky_ledger.core.values.axes import Axis
from plucky_ledger.ui.accessible.picture import Picture
from plucky_ledger.ui.theme import ink, scaled_font
from plucky_ledger.wording.advice import drawing_in_words, spoken_drawing
from plucky_ledger.wording.spoken import SpokenRow

WIDTH, HEIGHT = 168, 58
BAR = 12.0
TALLY_HEIGHT, STROKE_APART, FIVE = 20.0, 4.0, 23.0
MOST_STROKES = 30
WASH = 70
"""How opaque the wash under a course is, of 255."""


class EvidencePicture(Picture, QWidget):
    """The evidence of one finding; blank where there is nothing to draw."""

    def __init__(self, drawing: Drawing | None) -> None:
        super().__init__()
        self._drawing = drawing
        self.setFixedSize(WIDTH, HEIGHT)
        self.setAccessibleName(drawing_in_words(drawing))

    @property
    def is_chart(self) -> bool:
        return self._drawing is not None

    def spoken_rows(self) -> Sequence[SpokenRow]:
        return spoken_drawing(self._drawing)

    def sizeHint(self) -> QSize:
        return QSize(WIDTH, HEIGHT)

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(scaled_font(0.8))
        words = self.fontMetrics().height()
        box = QRectF(1, 2, WIDTH - 2, HEIGHT - words - 5)
        match self._drawing:
            case Curve() as curve:
                _draw_course(painter, box, curve)
            case Gauge(of, share, mark):
                _draw_bar(painter, box, share, ink().of(of), mark)
            case Tally(some):
                _draw_tally(painter, box, some)
            case Stretch(begin, end, whole):
                _draw_stretch(painter, box, (begin, end), whole)
            case None:
                return
        painter.setPen(ink().of("pencil"))
        below = QRectF(0, HEIGHT - words, WIDTH, words)
        painter.drawText(below, Qt.AlignmentFlag.AlignLeft, drawing_in_words(self._drawing))


def _draw_course(painter: QPainter, box: QRectF, curve: Curve) -> None:
    """Shares over time, filled down to nothing."""
    colours, colour = ink(), ink().of(curve.of)
    painter.setPen(QPen(colours.of("faint"), 1))
    painter.drawLine(box.topLeft(), box.topRight())
    along = Axis(0.0, max(curve.seconds[-1], 1.0), box.left(), box.right())
    up = Axis(0.0, 1.0, box.bottom(), box.top())
    points = [
        QPointF(along.place(at), up.place(share))
        for at, share in zip(curve.seconds, curve.shares, strict=True)
    ]
    ends = [QPointF(points[-1].x(), box.bottom()), QPointF(points[0].x(), box.bottom())]
    wash = QColor(colour)
    wash.setAlpha(WASH)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(wash)
    painter.drawPolygon(QPolygonF([*points, *ends]))
    painter.setPen(QPen(colour, 1.4))
    painter.drawPolyline(QPolygonF(points))
    painter.setPen(QPen(colours.of("rule"), 1))
    painter.drawLine(box.bottomLeft(), box.bottomRight())


def _draw_tally(painter: QPainter, box: QRectF, count: int) -> None:
    """Strokes in fives, as they are counted on paper; what has no room is left to the figure."""
    painter.setPen(QPen(ink().of("ink"), 1.5))
    high = min(box.height(), TALLY_HEIGHT)
    top = box.center().y() - high / 2
    for stroke in range(min(count, MOST_STROKES)):
        five, within = divmod(stroke, 5)
        left = box.left() + 3 + five * FIVE
        x = left + within * STROKE_APART
        if within < 4:
            painter.drawLine(QPointF(x, top), QPointF(x, top + high))
        else:
            painter.drawLine(
                QPointF(left - 2, top + high - 3), QPointF(left + 3 * STROKE_APART + 2, top + 3)
            )
    if count > MOST_STROKES:
        painter.drawText(QPointF(box.left() + MOST_STROKES / 5 * FIVE, top + high), "…")


def _draw_stretch(
    painter: QPainter, box: QRectF, stretch: tuple[float, float], whole: float
) -> None:
    """Part of the start, dotted as a wait is in the lanes."""
    along, middle = Axis(0.0, max(whole, 1.0), box.left(), box.right()), box.center().y()
    painter.setPen(QPen(ink().of("rule"), 1))
    painter.drawLine(QPointF(box.left(), middle), QPointF(box.right(), middle))
    painter.setPen(QPen(ink().of("lost"), 3, Qt.PenStyle.DotLine))
    begin, end = (along.place(at) for at in stretch)
    painter.drawLine(QPointF(begin, middle), QPointF(end, middle))


def _draw_bar(
    painter: QPainter, box: QRectF, share: float, colour: QColor, mark: float | None = None
) -> None:
    """A bar as long as the share, and a stroke where the rule's limit is."""
    top = box.bottom() - BAR - 4
    along = Axis(0.0, 1.0, box.left(), box.right())
    painter.setPen(QPen(ink().of("rule"), 1))
    painter.drawRect(QRectF(box.left(), top, box.width(), BAR))
    painter.fillRect(QRectF(box.left(), top, along.place(share) - box.left(), BAR), colour)
    if mark is not None:
        painter.setPen(QPen(ink().of("ink"), 1.6))
        painter.drawLine(QPointF(along.place(mark), top - 5), QPointF(along.place(mark), top + BAR))
