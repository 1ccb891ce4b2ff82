"""The Verdict lens: the answer in large type, then one row per measure."""

from collections.abc import Sequence
from html import escape

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import (
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from plucky_ledger.core.book.verdict import Verdict
from plucky_ledger.pages.verdict import VerdictPage, VerdictRow, verdict_page
from plucky_ledger.ui.accessible.picture import Picture
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.drawing.dot_strip import draw_dots, draw_expected
from plucky_ledger.ui.drawing.stamp import stamp_width
from plucky_ledger.ui.lenses.lens import Lens
from plucky_ledger.ui.lenses.which_change import WhichChange
from plucky_ledger.ui.text import Marked, explain, paragraph, small
from plucky_ledger.ui.theme import ink, scaled_font, title_font
from plucky_ledger.wording.labels import label
from plucky_ledger.wording.language import say
from plucky_ledger.wording.reasons import reason_in_words
from plucky_ledger.wording.spoken import SpokenRow
from plucky_ledger.wording.verdict import (
    answer,
    as_expected,
    basis,
    comparability_in_words,
    decides,
    legend,
    only_moved,
    row_explanation,
    row_shift,
    spoken_sides,
    to_decide,
    went_wrong,
    why_unproven,
)


class TwoStrips(Picture, QWidget):
    """Both rounds' dots of one measure, one above the other on one axis."""

    def __init__(self, row: VerdictRow) -> None:
        super().__init__()
        self._row = row
        measure = label(row.measure)
        self.setAccessibleName(say("Boots before and after in {measure}", measure=measure))

    def spoken_rows(self) -> Sequence[SpokenRow]:
        return spoken_sides(self._row)

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
                draw_dots(
                    painter,
                    QRectF(6, top, width, 14),
                    dots,
                    typical,
                    row.span,
                    colours.of(colour),
                    colours.of("faint"),
                )
        if row.expected is not None:
            draw_expected(
                painter,
                QRectF(6, 22.0, width, 14),
                row.expected.value,
                row.span,
                colours.of("pencil"),
            )


class Stamp(Picture, QWidget):
    """The verdict as an outlined word."""

    @property
    def is_chart(self) -> bool:
        return False

    def __init__(self, verdict: Verdict) -> None:
        super().__init__()
        self._verdict = verdict
        self.setAccessibleName(label(verdict))
        metrics = self.fontMetrics()
        wide = stamp_width(label(one) for one in Verdict)
        self.setFixedSize(wide + 16, metrics.height() + 10)

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
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, label(self._verdict).upper())


class VerdictLens(Lens):
    """The selected line of the book against the state before it; or which change did it.

    Signals:
        step_wanted(Step): what would decide it is to be done.
    """

    step_wanted = Signal(object)

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self.page: VerdictPage | None = None
        """None while it is being worked out."""
        self.setAccessibleName(say("Verdict"))
        self._sides = QScrollArea()
        self._sides.setWidgetResizable(True)
        self._sides.setFrameShape(QFrame.Shape.NoFrame)
        self._sides.setAccessibleName(say("State against state"))
        self.which = WhichChange(desk)
        self._stack = QStackedWidget()
        self._stack.addWidget(self._sides)
        self._stack.addWidget(self.which)
        self.which_button = QPushButton(say("Which change did it"))
        self.which_button.setCheckable(True)
        self.which_button.setAccessibleName(say("Which change did it"))
        self.which_button.setProperty("fold", True)
        self.which_button.toggled.connect(self._turn_over)
        head = QHBoxLayout()
        head.setContentsMargins(16, 8, 20, 0)
        head.addStretch(1)
        head.addWidget(self.which_button)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(head)
        layout.addWidget(self._stack, 1)

    def _turn_over(self, which: bool) -> None:
        self._stack.setCurrentIndex(int(which))
        words = say("State against state") if which else say("Which change did it")
        self.which_button.setText(words)
        self.refresh()

    def refresh(self) -> None:
        """Show the verdict as it is now, as soon as it is worked out."""
        desk = self._desk
        job, measure, line = desk.job, desk.measure, desk.line
        if job is None:
            return
        self.page = None
        if self.which_button.isChecked():
            self.which.refresh()

        def known(page: VerdictPage) -> None:
            if desk.job is not job or desk.measure is not measure or desk.line != line:
                return
            self.page = page
            if not self.which_button.isChecked():
                self._sides.setWidget(self._built(page))

        desk.executor.ask("verdict", lambda: verdict_page(job, measure, line), known)

    def _built(self, page: VerdictPage) -> QWidget:
        body = QWidget()
        layout = QVBoxLayout(body)
        layout.setContentsMargins(16, 4, 20, 12)
        layout.setSpacing(6)
        layout.addWidget(_answer(page))
        layout.addWidget(paragraph(escape(basis(page)), quiet=True))
        if sentence := legend(page):
            layout.addWidget(paragraph(escape(sentence), quiet=True))
        layout.addSpacing(10)
        layout.addLayout(_rows(page.rows))
        layout.addSpacing(8)
        if sentence := only_moved(page.moved):
            layout.addWidget(paragraph(escape(sentence)))
        for heading, sentence in (
            (say("As predicted?"), as_expected(page)),
            (say("Odd boots:"), went_wrong(page)),
            (say("Fair?"), comparability_in_words(page)),
            (say("To decide what is unproven:"), to_decide(page)),
        ):
            if sentence:
                layout.addWidget(paragraph(f"<b>{escape(heading)}</b> {escape(sentence)}"))
        if words := decides(page):
            self.decide_button = QPushButton(words)
            self.decide_button.setEnabled(self._desk.writable)
            self.decide_button.clicked.connect(lambda: self.step_wanted.emit(page.decides))
            row = QHBoxLayout()
            row.addWidget(self.decide_button)
            row.addStretch(1)
            layout.addLayout(row)
        layout.addStretch(1)
        return body


def _answer(page: VerdictPage) -> QLabel:
    said = answer(page)
    text = escape(said.sentence)
    if said.strong:
        strong = escape(said.strong)
        text = text.replace(strong, f"<b>{strong}</b>")
    sentence = paragraph(f"{text} {escape(said.stamp)}")
    sentence.setFont(title_font(2.0))
    return sentence


def _rows(rows: tuple[VerdictRow, ...]) -> QGridLayout:
    grid = QGridLayout()
    grid.setHorizontalSpacing(18)
    grid.setVerticalSpacing(3)
    grid.setColumnStretch(1, 1)
    for index, row in enumerate(rows):
        line = 2 * index
        name, about = escape(label(row.measure)), escape(row_explanation(row))
        title = paragraph(f"<b>{name}</b><br>{small(about)}")
        title.setMinimumWidth(150)
        title.setMaximumWidth(190)
        grid.addWidget(title, line, 0)
        grid.addWidget(TwoStrips(row), line, 1)
        words = escape(row_shift(row))
        if why := why_unproven(row):
            words += f"<br>{small(escape(why))}"
        shift = Marked(words)
        shift.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        grid.addWidget(shift, line, 2)
        if row.shift is not None:
            stamp = Stamp(row.shift.verdict)
            if row.shift.reason:
                explain(stamp, reason_in_words(row.shift.reason))
            grid.addWidget(stamp, line, 3)
        rule = QFrame()
        rule.setFixedHeight(1)
        rule.setProperty("rule", True)
        grid.addWidget(rule, line + 1, 0, 1, 4)
    return grid
