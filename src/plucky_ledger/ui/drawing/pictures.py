"""What is painted on the screen as a picture of its own: SVG or PNG."""

from collections.abc import Callable

from PySide6.QtCore import QBuffer, QPoint, QRectF, QSize
from PySide6.QtGui import QGuiApplication, QImage, QPainter
from PySide6.QtWidgets import QWidget

from plucky_ledger.ui.theme import ink, scaled_font

SVG = ".svg"
MARGIN = 12
PNG_SCALE = 2
"""Pixels of a PNG picture to one of the screen: it is printed, or shown larger, as a rule."""


def painted(size: QSize, paint: Callable[[QPainter], None], ending: str, title: str) -> bytes:
    """What ``paint`` paints on ``size`` as an SVG (``ending`` ".svg") or a PNG picture."""
    buffer = QBuffer()
    buffer.open(QBuffer.OpenModeFlag.WriteOnly)
    if ending == SVG:
        from PySide6.QtSvg import QSvgGenerator  # not at the start

        generator = QSvgGenerator()
        generator.setOutputDevice(buffer)
        # Widgets have measured their words at the screen's size.
        generator.setResolution(round(QGuiApplication.primaryScreen().logicalDotsPerInch()))
        generator.setSize(size)
        generator.setViewBox(QRectF(0, 0, size.width(), size.height()))
        generator.setTitle(title)
        painter = QPainter(generator)
        paint(painter)
        painter.end()
    else:
        image = QImage(size * PNG_SCALE, QImage.Format.Format_RGB32)
        image.setDevicePixelRatio(PNG_SCALE)
        image.fill(ink().of("page"))
        painter = QPainter(image)
        paint(painter)
        painter.end()
        image.save(buffer, "PNG")  # type: ignore[call-overload]
    return bytes(buffer.data().data())


def of_widget(widget: QWidget, title: str, ending: str) -> bytes:
    """A widget as it is painted now with all that is in it, under its title."""
    head = 0
    if title:
        head = widget.fontMetrics().height() + MARGIN
    size = widget.size() + QSize(2 * MARGIN, 2 * MARGIN + head)

    def paint(painter: QPainter) -> None:
        painter.fillRect(QRectF(0, 0, size.width(), size.height()), ink().of("page"))
        painter.setPen(ink().of("ink"))
        painter.setFont(scaled_font(1.0, bold=True))
        painter.drawText(QPoint(MARGIN, MARGIN + widget.fontMetrics().ascent()), title)
        widget.render(
            painter,
            QPoint(MARGIN, MARGIN + head),
            renderFlags=QWidget.RenderFlag.DrawChildren,
        )

    return painted(size, paint, ending, title)
