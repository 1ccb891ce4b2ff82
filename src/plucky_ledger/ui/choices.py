"""One of several: buttons in a row, as tabs or as choices, and what is chosen from a list."""

from collections.abc import Iterable
from typing import TYPE_CHECKING

from PySide6.QtCore import Signal
from PySide6.QtGui import QFontMetrics
from PySide6.QtWidgets import (
    QAbstractButton,
    QButtonGroup,
    QComboBox,
    QHBoxLayout,
    QPushButton,
    QWidget,
)

from plucky_ledger.ui.text import explain, tip
from plucky_ledger.ui.theme import scaled_font

if TYPE_CHECKING:
    from plucky_ledger.ui.accessible.faces import Face


class ChoiceButton(QPushButton):
    """One of several choices in a row, underlined when chosen."""

    def __init__(self, text: str, tab: bool) -> None:
        super().__init__(text)
        self.tab = tab
        """It brings another view; else it changes what this one shows."""
        self.setCheckable(True)
        self.setAccessibleName(text)
        self.setProperty("lens", True)
        # Wide enough for the bold face it takes on when chosen.
        bold = QFontMetrics(scaled_font(1.0, bold=True)).horizontalAdvance(text)
        self.setMinimumWidth(bold + 26)

    def make_face(self) -> "Face":
        """What assistive programs are told of it."""
        from plucky_ledger.ui.accessible.choices import ChoiceFace

        return ChoiceFace(self)


class ChoiceRow(QWidget):
    """Choices beside each other, of which one is taken, or none.

    Signals:
        chosen(int): somebody took one, by its place.
    """

    chosen = Signal(int)

    def __init__(self, name: str, titles: Iterable[str], tabs: bool = False) -> None:
        super().__init__()
        self.tabs = tabs
        self.setAccessibleName(name)
        self._group = QButtonGroup(self)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(2)
        for at, title in enumerate(titles):
            button = ChoiceButton(title, tabs)
            self._group.addButton(button, at)
            row.addWidget(button)
        row.addStretch(1)
        self._group.idClicked.connect(self.chosen)

    def button(self, at: int) -> QAbstractButton:
        """The button at a place."""
        return self._group.button(at)

    def buttons(self) -> list[QAbstractButton]:
        """All of them, in their order."""
        return self._group.buttons()

    def take(self, at: int | None) -> None:
        """Show one as taken, without telling anybody; or none."""
        if at is not None:
            self._group.button(at).setChecked(True)
            return
        self._group.setExclusive(False)
        for button in self._group.buttons():
            button.setChecked(False)
        self._group.setExclusive(True)

    def explain_keys(self) -> None:
        """Tell of each the key that takes it: its place, counted from one."""
        for at, button in enumerate(self._group.buttons(), 1):
            button.setToolTip(tip(f"{button.text()} ({at})"))
            button.setAccessibleDescription(str(at))

    def make_face(self) -> "Face":
        """What assistive programs are told of it."""
        from plucky_ledger.ui.accessible.choices import ChoiceRowFace

        return ChoiceRowFace(self)


class Chooser(QComboBox):
    """One of a list; it is named by what is chosen with it."""

    def __init__(self, name: str, explained: str = "", flat: bool = False) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setProperty("flat", flat)
        explain(self, explained)

    def make_face(self) -> "Face":
        """What assistive programs are told of it."""
        from plucky_ledger.ui.accessible.choices import ChooserFace

        return ChooserFace(self)
