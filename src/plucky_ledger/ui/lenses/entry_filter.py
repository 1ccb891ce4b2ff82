"""Which entries are asked for: by a word, by kind, by owner, by what was decided."""

from enum import StrEnum

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QWidget

from plucky_ledger.core.entries.kinds import Family
from plucky_ledger.pages.entries import DecidedChoice, OwnerChoice, fits
from plucky_ledger.ui.choices import Chooser
from plucky_ledger.ui.lenses.entries_list import ListedEntry
from plucky_ledger.ui.search_field import SearchField
from plucky_ledger.wording.entries import choice
from plucky_ledger.wording.language import say


class EntryFilter(QWidget):
    """A search field and three choosers.

    Signals:
        changed(): something else is asked for.
    """

    changed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.search = SearchField(say("Find an entry"), say("find an entry"))
        self.search.setMinimumWidth(110)
        self.search.textChanged.connect(self.changed)
        self.kind = self._chooser(say("Kind"), Family)
        self.owner = self._chooser(say("Whose"), OwnerChoice)
        self.decided = self._chooser(say("Decided"), DecidedChoice)
        self._boxes = (self.kind, self.owner, self.decided)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(10)
        row.addWidget(self.search, 1)
        for box in self._boxes:
            row.addWidget(box)

    def _chooser(self, name: str, choices: type[StrEnum]) -> QComboBox:
        box = Chooser(name, flat=True)
        for code in choices:
            box.addItem(choice(code), code)
        box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        box.setMinimumContentsLength(7)
        box.view().setMinimumWidth(150)
        box.currentIndexChanged.connect(self.changed)
        return box

    @property
    def is_on(self) -> bool:
        """Whether not all entries are asked for."""
        return any(box.currentIndex() > 0 for box in self._boxes) or bool(self.search.text())

    def fits(self, listed: ListedEntry) -> bool:
        """Whether an entry is asked for."""
        kind, owner = Family(self.kind.currentData()), OwnerChoice(self.owner.currentData())
        decided = DecidedChoice(self.decided.currentData())
        has_word = listed.words.has(self.search.text(), listed.row.entry)
        return has_word and fits(listed.row, kind, owner, decided)

    def ask_for_all(self) -> None:
        """Ask for every entry, without saying so: whoever does shows them."""
        self.blockSignals(True)
        self.search.clear()
        for box in self._boxes:
            box.setCurrentIndex(0)
        self.blockSignals(False)

    def show_only(self, wanted: DecidedChoice) -> None:
        """Only the entries that something was decided about so."""
        self.decided.setCurrentIndex(self.decided.findData(wanted))
