"""The Why lens: what to do, since when, and what takes the room."""

from PySide6.QtWidgets import QHBoxLayout, QStackedWidget, QVBoxLayout

from plucky_ledger.ui.choices import ChoiceRow
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.lenses.lens import Lens
from plucky_ledger.ui.lenses.why_advice import AdviceView
from plucky_ledger.ui.lenses.why_room import RoomView
from plucky_ledger.ui.lenses.why_trend import TrendView
from plucky_ledger.wording.basis import Basis
from plucky_ledger.wording.language import say


class WhyLens(Lens):
    """Three views of why a PC is slow; it is about the PC as it is now, on every line."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.setAccessibleName(say("Why it is still slow"))
        self.advice, self.trend, self.room = AdviceView(desk), TrendView(desk), RoomView(desk)
        self._stack = QStackedWidget()
        head = QHBoxLayout()
        head.setContentsMargins(8, 6, 20, 0)
        views: tuple[tuple[str, AdviceView | TrendView | RoomView], ...] = (
            (say("What to do"), self.advice),
            (say("Since when"), self.trend),
            (say("Disk space"), self.room),
        )
        self._views = tuple(view for _title, view in views)
        for _title, view in views:
            self._stack.addWidget(view)
        self.buttons = ChoiceRow(
            say("Why it is still slow"), (title for title, _view in views), tabs=True
        )
        self.buttons.take(0)
        self.buttons.chosen.connect(self.show_view)
        head.addWidget(self.buttons)
        head.addStretch(1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(head)
        layout.addWidget(self._stack, 1)

    def show_view(self, index: int) -> None:
        """Another of the views, by its place."""
        self.buttons.take(index)
        self._stack.setCurrentIndex(index)
        self.refresh()

    @property
    def basis(self) -> Basis | None:
        """What the view in sight rests on: the chosen finding, the trend, the survey."""
        return self._views[self._stack.currentIndex()].basis

    def refresh(self) -> None:
        """Bring the view in sight up to date."""
        self._views[self._stack.currentIndex()].refresh()
