"""The machine while it is recorded: a voice that grows, with memory and processes beside it."""

from collections.abc import Sequence

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPainterPath, QPaintEvent, QPen, QTransform
from PySide6.QtWidgets import QWidget

from plucky_ledger.core.boots.samples import Floats
from plucky_ledger.core.replay.voices import Voice
from plucky_ledger.core.values.axes import Axis
from plucky_ledger.pages.curves import Strip, StripKind
from plucky_ledger.pages.live import LiveBoot
from plucky_ledger.ui.accessible.picture import Picture
from plucky_ledger.ui.drawing.silhouette import LaneLine, Silhouette, draw_voice, fine_line
from plucky_ledger.ui.theme import ink, scaled_font
from plucky_ledger.wording.figures import seconds
from plucky_ledger.wording.lanes import newest_reading, spoken_strips, strip_title
from plucky_ledger.wording.language import say
from plucky_ledger.wording.spoken import SpokenRow

LEFT = 150.0
LEAST_SECONDS = 10.0
"""The axis is at least so long: the first samples are no wall."""
FINE_SHARE = 0.16
"""Share of the height for each of the fine lines."""


class LiveMachine(Picture, QWidget):
    """What has been recorded so far; in words what is waited for, before there is anything."""

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName(say("This PC so far"))
        self.strips: tuple[Strip, ...] = ()

    @property
    def is_chart(self) -> bool:
        return bool(self.strips)

    def spoken_rows(self) -> Sequence[SpokenRow]:
        return spoken_strips(self.strips)

    def sizeHint(self) -> QSize:
        return QSize(600, 300)

    def show_live(self, live: LiveBoot) -> None:
        """Show what has been recorded so far."""
        self.strips = live.strips
        self.update()

    def clear(self) -> None:
        """Forget the boot before."""
        self.strips = ()
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if not self.strips:
            painter.setPen(ink().of("pencil"))
            painter.drawText(
                self.rect().adjusted(20, 0, -20, 0),
                Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap,
                say("The curves begin after two samples. Each mark appears when it is reached."),
            )
            return
        by_kind = {strip.kind: strip for strip in self.strips}
        edges = self.strips[0].edges
        start = float(edges[0])
        end = max(start + LEAST_SECONDS, float(edges[-1]))
        axis = Axis(start, end, LEFT, float(self.width()) - 4)
        ruler = QFontMetricsF(scaled_font(0.8)).height() + 4
        fine = FINE_SHARE * self.height()
        machine = QRectF(0, ruler, self.width(), self.height() - ruler - 2 * fine)
        self._paint_ruler(painter, axis, ruler)
        self._paint_machine(painter, axis, machine, by_kind)
        for number, kind in enumerate((StripKind.MEMORY, StripKind.PROCESSES)):
            box = QRectF(0, machine.bottom() + number * fine + 6, self.width(), fine - 10)
            self._paint_fine(painter, axis, box, by_kind[kind])

    def _paint_ruler(self, painter: QPainter, axis: Axis, height: float) -> None:
        painter.setFont(scaled_font(0.8))
        ticks, digits = axis.ticks(90.0)
        for instant in ticks:
            x = axis.place(instant)
            painter.setPen(QPen(ink().of("faint"), 1))
            painter.drawLine(QPointF(x, height), QPointF(x, self.height()))
            painter.setPen(ink().of("pencil"))
            text = seconds(instant, digits)
            if x + 3 + painter.fontMetrics().horizontalAdvance(text) <= self.width():
                painter.drawText(QPointF(x + 3, height - 6), text)

    def _paint_machine(
        self, painter: QPainter, axis: Axis, box: QRectF, strips: dict[StripKind, Strip]
    ) -> None:
        cpu, disk = strips[StripKind.CPU], strips[StripKind.DISK]
        voice = Voice.alone(_known(cpu) * cpu.full, _known(disk))
        half = box.height() / 2 - 4
        line = LaneLine(axis.place(0.0), axis.per_unit, box.center().y(), half, half)
        draw_voice(painter, Silhouette(voice, cpu.edges, cpu.full), line, ink())
        painter.setPen(QPen(ink().of("ink"), 1.6))
        painter.drawLine(QPointF(axis.left, line.y), QPointF(axis.right, line.y))
        self._caption(painter, QRectF(0, box.top(), LEFT, box.height() / 2), cpu)
        self._caption(painter, QRectF(0, box.center().y(), LEFT, box.height() / 2), disk)

    def _paint_fine(self, painter: QPainter, axis: Axis, box: QRectF, strip: Strip) -> None:
        place = QTransform(axis.per_unit, 0, 0, -box.height(), axis.place(0.0), box.bottom())
        path: QPainterPath = place.map(fine_line(strip))
        painter.setPen(QPen(ink().of(strip.kind), 1.6))
        painter.drawPath(path)
        self._caption(painter, QRectF(0, box.top(), LEFT, box.height()), strip)

    @staticmethod
    def _caption(painter: QPainter, box: QRectF, strip: Strip) -> None:
        """What it is and what it reads now."""
        bold, small = scaled_font(0.94, bold=True), scaled_font(0.84)
        top = box.center().y() - QFontMetricsF(bold).height()
        painter.setFont(bold)
        painter.setPen(ink().of(strip.kind))
        painter.drawText(QPointF(2, top + QFontMetricsF(bold).ascent()), strip_title(strip.kind))
        painter.setFont(small)
        painter.setPen(ink().of("pencil"))
        below = top + QFontMetricsF(bold).height() + QFontMetricsF(small).ascent()
        painter.drawText(QPointF(2, below), newest_reading(strip))


def _known(strip: Strip) -> Floats:
    return np.nan_to_num(strip.heights)
