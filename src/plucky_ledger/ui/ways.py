"""Navigation from one place of the window to another; nothing is changed by it."""

from PySide6.QtCore import QObject, Qt
from PySide6.QtWidgets import QApplication

from plucky_ledger.ui.book.book_view import BookView
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.lenses.registry import LENSES, LensName
from plucky_ledger.ui.right_page import RightPage
from plucky_ledger.ui.shelf_view import ShelfView
from plucky_ledger.ui.window_panels import Panels
from plucky_ledger.usecases.jobs.manual import Part


class Ways(QObject):
    """Moves the view and the keyboard."""

    def __init__(
        self, desk: Desk, shelf: ShelfView, book: BookView, right: RightPage, panels: Panels
    ) -> None:
        super().__init__()
        self._desk = desk
        self._shelf = shelf
        self._book = book
        self._right = right
        self._panels = panels

    @property
    def in_the_book(self) -> bool:
        """Whether the keyboard is on the left page."""
        focus = QApplication.focusWidget()
        return focus is not None and self._book.isAncestorOf(focus)

    def other_page(self) -> None:
        """Move the keyboard to the other page."""
        if self.in_the_book:
            self._right.take_focus()
        else:
            self._book.lines.setFocus(Qt.FocusReason.ShortcutFocusReason)

    def to_entry(self, entry_id: str) -> None:
        """An entry in the list of entries."""
        self._right.show_lens(LensName.ENTRIES)
        self._right.entries.choose(entry_id)

    def to_lane(self, entry_id: str) -> None:
        """An entry's lane."""
        self._right.show_lens(LensName.LANES)
        self._right.lanes.canvas.choose(entry_id)
        self._right.lanes.canvas.setFocus()

    def to_verdict(self) -> None:
        """The verdict on the selected line."""
        self._right.show_lens(LensName.VERDICT)

    def to_which_change(self) -> None:
        """The effect of every change, or back to state against state."""
        self._right.show_lens(LensName.VERDICT)
        self._right.verdict.which_button.click()

    def find(self) -> None:
        """To the search field of what is in sight: the manual, the shelf, a list, or the lanes."""
        fields = {
            LensName.ENTRIES: lambda: self._right.entries.filter.search,
            LensName.LOAD: lambda: self._right.load.search,
        }
        field = self._shelf.search
        if self._panels.is_reading:
            field = self._panels.manual.search
        elif self._desk.job is not None:
            if self._right.lens not in fields:
                self._right.show_lens(LensName.LANES)
            field = fields.get(self._right.lens, lambda: self._right.lanes.search)()
        field.setFocus(Qt.FocusReason.ShortcutFocusReason)
        field.selectAll()

    def find_entry(self) -> None:
        """To the search field of the entries."""
        self._right.entries.filter.search.setFocus(Qt.FocusReason.ShortcutFocusReason)

    def to_reason(self) -> None:
        """To the field for why the selected entry is decided so."""
        self._right.entries.ask_reason()

    def unfold_system(self) -> None:
        """Show the parts of the system among the entries, or fold them away."""
        self._right.entries.fold.toggle()

    def to_manual(self) -> None:
        """The manual, at what is in sight."""
        section = LENSES[self._right.lens].section
        if self._desk.job is None:
            section = ""
        elif self.in_the_book:
            section = "The book"
        self._panels.show_manual(Part.MANUAL, section)

    def to_basis(self) -> None:
        """What the chosen figure rests on."""
        job = self._desk.job
        basis = None if self.in_the_book else self._right.basis
        if basis is None and job is not None:
            from plucky_ledger.pages.basis import line_basis  # once somebody asks
            from plucky_ledger.wording.basis import of_line

            basis = of_line(line_basis(job, self._desk.measure, self._desk.line))
        if basis is not None:
            self._panels.show_basis(basis)
