"""Which change did it: one row a change with its effect on a common axis."""

from collections.abc import Mapping
from html import escape

from PySide6.QtCore import QPointF, QRectF, QSize
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import (
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from plucky_ledger.core.book.effects import Effect
from plucky_ledger.core.boots.boot import Boot
from plucky_ledger.core.job.job import Job
from plucky_ledger.core.replay.startup_cost import StartupCost
from plucky_ledger.core.values.axes import Axis, Span
from plucky_ledger.pages.effects import EffectsPage, effects_page, replayed
from plucky_ledger.ui.accessible.picture import Picture
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.text import Text, paragraph, small
from plucky_ledger.ui.theme import ink, title_font
from plucky_ledger.usecases.recording.turns import pencil_state
from plucky_ledger.wording.effects import (
    basis,
    effect_basis,
    effect_in_words,
    effect_name,
    headline,
    next_restart,
    replay_in_words,
    spoken_effect,
)
from plucky_ledger.wording.language import say


class EffectBar(QWidget):
    """An effect with its interval about zero; left of zero is less."""

    def __init__(self, effect: Effect, span: Span | None) -> None:
        super().__init__()
        self._effect, self._span = effect, span

    def sizeHint(self) -> QSize:
        return QSize(240, 26)

    def minimumSizeHint(self) -> QSize:
        return QSize(120, 26)

    def paintEvent(self, _event: QPaintEvent) -> None:
        if self._span is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        colours, effect = ink(), self._effect
        axis, middle = Axis(*self._span, 6.0, float(self.width() - 6)), self.height() / 2
        zero = axis.place(0.0)
        painter.setPen(QPen(colours.of("faint"), 1))
        painter.drawLine(QPointF(6, middle), QPointF(self.width() - 6, middle))
        painter.setPen(QPen(colours.of("pencil"), 1))
        painter.drawLine(QPointF(zero, middle - 9), QPointF(zero, middle + 9))
        if effect.value is None:
            return
        colour = colours.of("saved" if effect.value <= 0 else "lost")
        at = axis.place(effect.value)
        painter.fillRect(QRectF(min(zero, at), middle - 4, abs(at - zero), 8), colour)
        if effect.low is not None and effect.high is not None:
            ends = axis.place(effect.low), axis.place(effect.high)
            painter.setPen(QPen(colours.of("ink"), 1.4))
            painter.drawLine(QPointF(ends[0], middle), QPointF(ends[1], middle))
            for end in ends:
                painter.drawLine(QPointF(end, middle - 4), QPointF(end, middle + 4))


class Bracket(Picture, QWidget):
    """Rows that cannot be told apart."""

    @property
    def is_chart(self) -> bool:
        return False

    def __init__(self) -> None:
        super().__init__()
        self.setFixedWidth(12)
        self.setAccessibleName(say("only measured together"))

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setPen(QPen(ink().of("pencil"), 1.6))
        top, bottom = 5.0, float(self.height() - 5)
        painter.drawPolyline(
            [QPointF(9, top), QPointF(3, top), QPointF(3, bottom), QPointF(9, bottom)]
        )


class WhichChange(QScrollArea):
    """Shows the effects of all changes of the job, worked out off the window's thread."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self.page: EffectsPage | None = None
        self._costs_of: tuple[int, tuple[Boot, ...]] | None = None
        self._costs: Mapping[str, StartupCost] = {}
        self.setAccessibleName(say("Which change did it"))
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)

    def refresh(self) -> None:
        """Show the effects as they are now."""
        job, measure = self._desk.job, self._desk.measure
        if job is None:
            return

        def known(page: EffectsPage) -> None:
            if self._desk.job is job and self._desk.measure is measure:
                self.page = page
                self._ask_the_replay(job)
                self.setWidget(self._built(page))

        self._desk.executor.ask("effects", lambda: effects_page(job, measure), known)

    def _ask_the_replay(self, job: Job) -> None:
        """What was expected of each entry before anything was changed: it takes a moment."""
        boots, shop = job.opening_boots, self._desk.workshop
        key = (job.number, boots)
        if key == self._costs_of:
            return
        self._costs_of, self._costs = key, {}

        def known(costs: Mapping[str, StartupCost]) -> None:
            if key == self._costs_of and self.page is not None:
                self._costs = costs
                self.setWidget(self._built(self.page))

        self._desk.executor.work_out(
            "effects",
            lambda: shop.costs.of(shop.ledger, job.number, boots).costs,
            known,
            at_leisure=True,
        )

    def _built(self, page: EffectsPage) -> QWidget:
        body = QWidget()
        layout = QVBoxLayout(body)
        layout.setContentsMargins(16, 12, 20, 12)
        layout.setSpacing(6)
        sentence = paragraph(escape(headline(page)))
        sentence.setFont(title_font(2.0))
        layout.addWidget(sentence)
        layout.addWidget(paragraph(escape(basis(page)), quiet=True))
        layout.addSpacing(10)
        layout.addLayout(_rows(page, self._costs))
        layout.addSpacing(8)
        if told := next_restart(page):
            layout.addWidget(paragraph(escape(told)))
            self.next_button = QPushButton(say("Pencil it"))
            self.next_button.setVisible(bool(page.next_changes))
            self.next_button.setEnabled(self._desk.writable)
            self.next_button.clicked.connect(lambda: self._pencil(page))
            row = QHBoxLayout()
            row.addWidget(self.next_button)
            row.addStretch(1)
            layout.addLayout(row)
        layout.addStretch(1)
        return body

    def _pencil(self, page: EffectsPage) -> None:
        """Pencil what leads to the next restart worth making."""
        job, state = self._desk.job, page.next_state
        if job is not None and state is not None:
            number = job.number
            self._desk.do(lambda ledger: pencil_state(ledger, number, state), self._pencilled)

    def _pencilled(self, _none: None) -> None:
        if self._desk.job is not None:
            self._desk.select_line(len(self._desk.job.postings))


def _rows(page: EffectsPage, costs: Mapping[str, StartupCost]) -> QGridLayout:
    grid = QGridLayout()
    grid.setHorizontalSpacing(14)
    grid.setVerticalSpacing(8)
    grid.setColumnStretch(2, 1)
    for first, last in page.brackets:
        grid.addWidget(Bracket(), first, 0, last - first + 1, 1)
    for row, effect in enumerate(page.rows):
        expected = replay_in_words(replayed(effect, page.measure, costs), page.measure)
        name = escape(effect_name(effect))
        about = "<br>".join(escape(line) for line in (effect_basis(effect), expected) if line)
        title = paragraph(f"<b>{name}</b><br>{small(about)}")
        title.setMinimumWidth(230)
        title.setMaximumWidth(280)
        grid.addWidget(title, row, 1)
        grid.addWidget(EffectBar(effect, page.span), row, 2)
        figure = Text(effect_in_words(effect, page))
        figure.setAccessibleName(spoken_effect(effect, page))
        grid.addWidget(figure, row, 3)
    return grid
