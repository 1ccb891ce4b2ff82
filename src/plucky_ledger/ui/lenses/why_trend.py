"""Since when: the boots of months on one axis, the steps in them, and what came with each."""

from html import escape

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QScrollArea, QVBoxLayout, QWidget

from plucky_ledger.core.trend.trend import DatedStep, Trend
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.drawing.trend import TrendPicture
from plucky_ledger.ui.text import Marked, paragraph
from plucky_ledger.ui.theme import title_font
from plucky_ledger.usecases.reading.trend import trend
from plucky_ledger.wording.basis import Basis
from plucky_ledger.wording.language import say
from plucky_ledger.wording.trend import (
    causes,
    levels_in_words,
    step_in_words,
    trend_basis,
    trend_in_short,
)
from plucky_ledger.wording.why_basis import of_trend


class TrendView(QScrollArea):
    """The newest step as one sentence, the picture, then every step, the newest first."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self.trend: Trend | None = None
        """None while it is being worked out."""
        self.setAccessibleName(say("Since when"))
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)

    def refresh(self) -> None:
        """Show the trend in the measure the book is kept in, as soon as it is worked out."""
        job, measure, shop = self._desk.job, self._desk.measure, self._desk.workshop
        if job is None:
            return
        self.trend = None

        def known(found: Trend) -> None:
            if self._desk.job is job and self._desk.measure is measure:
                self.trend = found
                self.setWidget(_built(found))

        self._desk.executor.ask(
            "trend", lambda: trend(shop.ledger, job.number, measure, shop.analyses), known
        )

    @property
    def basis(self) -> Basis | None:
        """The boots it rests on."""
        return of_trend(self.trend) if self.trend is not None else None


def _built(found: Trend) -> QWidget:
    body = QWidget()
    layout = QVBoxLayout(body)
    layout.setContentsMargins(16, 4, 20, 12)
    layout.setSpacing(6)
    answer = paragraph(escape(trend_in_short(found)))
    answer.setFont(title_font(2.0))
    layout.addWidget(answer)
    layout.addWidget(paragraph(escape(trend_basis(found)), quiet=True))
    layout.addSpacing(8)
    layout.addWidget(TrendPicture(found))
    layout.addSpacing(8)
    for step in reversed(found.steps):
        layout.addWidget(_told(found, step))
    layout.addStretch(1)
    return body


def _told(found: Trend, step: DatedStep) -> Marked:
    """One step, its levels, and what came with it."""
    title = f"<b>{escape(step_in_words(step, found.measure))}</b>"
    levels = escape(levels_in_words(step, found.measure))
    return paragraph(f"{title} {levels}<br>{escape(causes(step))}")
