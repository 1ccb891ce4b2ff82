"""What a painted widget is to those who do not see it."""

from collections.abc import Sequence
from typing import TYPE_CHECKING

from PySide6.QtCore import QRect
from PySide6.QtGui import QAccessible, QAccessibleEvent
from PySide6.QtWidgets import QWidget

from plucky_ledger.wording.spoken import SpokenRow

if TYPE_CHECKING:
    from plucky_ledger.ui.accessible.spoken import PictureFace

    _Widget = QWidget
else:  # what is mixed into a widget is none of its own
    _Widget = object


class Picture(_Widget):
    """A widget that is painted, and can tell in rows and cells what it shows."""

    name_of_file = "chart"
    """How a file of it is called at first, before the job's label."""

    @property
    def is_chart(self) -> bool:
        """Whether it says something when it stands alone, out of the window."""
        return True

    def spoken_rows(self) -> Sequence[SpokenRow]:
        """What it shows; nothing where its name says all."""
        return ()

    def as_picture(self, title: str, ending: str) -> bytes:
        """What it shows as the bytes of a picture, SVG (``ending`` ".svg") or PNG."""
        from plucky_ledger.ui.drawing.pictures import of_widget

        return of_widget(self, title, ending)

    def spoken_chosen(self) -> int | None:
        """Place of the chosen row, below zero for none; None where rows cannot be chosen."""
        return None

    def choose_spoken(self, row: int) -> None:
        """Choose a row by its place."""

    def spoken_box(self, _row: int) -> QRect:
        """Where a row is painted."""
        return self.rect()

    def make_face(self) -> "PictureFace":
        """What assistive programs are told of it."""
        from plucky_ledger.ui.accessible.spoken import PictureFace

        return PictureFace(self)

    def tell_of_rows(self) -> None:
        """Other rows, or the same in another order, are there now."""
        if QAccessible.isActive():
            QAccessible.updateAccessibility(QAccessibleEvent(self, QAccessible.Event.ObjectReorder))

    def tell_of_chosen(self) -> None:
        """Have the chosen row read out: the keyboard has come to it."""
        if not (QAccessible.isActive() and self.hasFocus()):
            return
        chosen = self.spoken_chosen()
        if chosen is not None and chosen >= 0:
            event = QAccessibleEvent(self, QAccessible.Event.Focus)
            event.setChild(chosen)
            QAccessible.updateAccessibility(event)
