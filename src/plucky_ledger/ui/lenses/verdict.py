"""The Verdict lens: the answer in large type, then one row per measure."""

from html import escape

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import (
    QFrame,
    QGridLayout,
    QLabel,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from plucky_ledger.core.book.verdict import Verdict
from plucky_ledger.pages.verdict import VerdictPage, VerdictRow, verdict_page
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.signs import draw_dots
from plucky_ledger.ui.theme import ink, scaled_font, title_font


class TwoStrips(QWidget):
    """Both rounds' dots of one measure, one above the other on one axis."""

    def __init__(self, row: VerdictRow) -> None:
        super().__init__()
        self._row = row
        values = [dot.value for dot in (*row.before, *row.after)]
        air = (max(values) - min(values)) * 0.1 + abs(max(values)) * 0.005 + 0.1
        self._span = (min(values) - air, max(values) + air)
        self.setAccessibleName(f"Boots before and after in {row.title}")

    def sizeHint(self) -> QSize:
        return QSize(240, 40)

    def minimumSizeHint(self) -> QSize:
        return QSize(120, 36)

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        colours, width, row = ink(), float(self.width() - 12), self._row
        both = (
            (row.before, row.typical_before, "pencil", 4.0),
            (row.after, row.typical_after, "ink", 22.0),
        )
        for dots, typical, colour, top in both:
            if dots:
                draw_dots(painter, QRectF(6, top, width, 14), dots, typical, self._span,
                          colours.of(colour), colours.of("faint"))  # fmt: skip


class Stamp(QWidget):
    """The verdict as an outlined word."""

    def __init__(self, verdict: Verdict) -> None:
        super().__init__()
        self._verdict = verdict
        self.setAccessibleName(str(verdict))
        metrics = self.fontMetrics()
        self.setFixedSize(metrics.horizontalAdvance("UNPROVEN") + 34, metrics.height() + 10)

    def paintEvent(self, _event: QPaintEvent) -> None:
        colours = ink()
        names = {Verdict.SAVED: "saved", Verdict.LOST: "lost", Verdict.EVEN: "pencil"}
        colour = colours.of(names.get(self._verdict, "ink"))
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        style = Qt.PenStyle.DashLine if self._verdict is Verdict.UNPROVEN else Qt.PenStyle.SolidLine
        painter.setPen(QPen(colour, 1.4, style))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 2, 2)
        painter.setFont(scaled_font(0.88, bold=True))
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, str(self._verdict).upper())


class VerdictLens(QScrollArea):
    """Shows the selected line of the book against the one before it."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self.page: VerdictPage | None = None
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setAccessibleName("Verdict")

    def refresh(self) -> None:
        """Show the verdict as it is now."""
        if self._desk.job is None:
            return
        self.page = verdict_page(self._desk.job, self._desk.measure, self._desk.line)
        self.setWidget(self._built(self.page))

    def _built(self, page: VerdictPage) -> QWidget:
        body = QWidget()
        layout = QVBoxLayout(body)
        layout.setContentsMargins(16, 20, 20, 12)
        layout.setSpacing(6)
        layout.addWidget(_answer(page))
        layout.addWidget(_text(page.basis, quiet=True))
        if page.legend:
            layout.addWidget(_text(page.legend, quiet=True))
        layout.addSpacing(10)
        layout.addLayout(_rows(page.rows))
        layout.addSpacing(8)
        if page.fair:
            layout.addWidget(_text(f"<b>Fair?</b> {escape(page.fair)}"))
        if page.to_decide:
            layout.addWidget(_text(f"<b>To decide what is unproven:</b> {escape(page.to_decide)}"))
        layout.addStretch(1)
        return body


def _answer(page: VerdictPage) -> QLabel:
    text = escape(page.answer)
    if page.strong:
        strong = escape(page.strong)
        text = text.replace(strong, f"<b>{strong}</b>")
    label = _text(f"{text} {escape(page.stamp)}")
    label.setFont(title_font(2.0))
    return label


def _text(html: str, quiet: bool = False) -> QLabel:
    label = QLabel(html)
    label.setTextFormat(Qt.TextFormat.RichText)
    label.setWordWrap(True)
    label.setProperty("quiet", quiet)
    return label


def _rows(rows: tuple[VerdictRow, ...]) -> QGridLayout:
    grid = QGridLayout()
    grid.setHorizontalSpacing(18)
    grid.setVerticalSpacing(3)
    grid.setColumnStretch(1, 1)
    for index, row in enumerate(rows):
        line = 2 * index
        title = _text(f"<b>{escape(row.title)}</b><br><small>{escape(row.explanation)}</small>")
        title.setMinimumWidth(150)
        title.setMaximumWidth(190)
        grid.addWidget(title, line, 0)
        grid.addWidget(TwoStrips(row), line, 1)
        shift = QLabel(row.shift)
        shift.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        grid.addWidget(shift, line, 2)
        if row.verdict is not None:
            grid.addWidget(Stamp(row.verdict), line, 3)
        rule = QFrame()
        rule.setFixedHeight(1)
        rule.setStyleSheet(f"background: {ink().faint};")
        grid.addWidget(rule, line + 1, 0, 1, 4)
    return grid
