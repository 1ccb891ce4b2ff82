"""Changes about to be made to a PC: one line each, those to be done by hand with a box to tick."""

from collections.abc import Callable

from PySide6.QtGui import QGuiApplication, QTextDocument
from PySide6.QtPrintSupport import QPrinter
from PySide6.QtWidgets import QCheckBox, QScrollArea, QVBoxLayout, QWidget

from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.dialogs import ask_for_printer
from plucky_ledger.ui.panels.panel import Panel
from plucky_ledger.ui.text import Text
from plucky_ledger.usecases.changing.switching import Planned
from plucky_ledger.wording.language import say
from plucky_ledger.wording.safe import shown
from plucky_ledger.wording.switching import list_to_do, planned_in_words


class ChangesPanel(Panel):
    """What the program makes is only told; what somebody has to make by hand has a box: the PC is
    changed when every box is ticked. The list can be taken to the bench.
    """

    def __init__(self, desk: Desk, title: str) -> None:
        super().__init__(title)
        self._desk = desk
        self._name = title
        self.planned: tuple[Planned, ...] = ()
        self.boxes: list[QCheckBox] = []
        self._list = QScrollArea()
        self._list.setWidgetResizable(True)
        self._list.setAccessibleName(say("What is changed"))
        self.body.addWidget(self._list, 1)
        self.leave_button = self.add_button(say("Cancel"))
        self.leave_button.clicked.connect(self.leave)
        self.print_button = self.add_button(say("Print the list…"))
        self.print_button.clicked.connect(self._ask_and_print)
        self.copy_button = self.add_button(say("Copy the list"))
        self.copy_button.clicked.connect(self.copy)
        self.do_button = self.add_button(title, main=True)
        self.do_button.clicked.connect(self.change)
        self._question: Callable[[], tuple[Planned, ...]] | None = None
        desk.job_changed.connect(self._look_again)

    def look(self, question: Callable[[], tuple[Planned, ...]]) -> None:
        """Ask the PC what would be changed, and show it."""
        self.refuse(None)
        self._show(())
        self._question = question
        self.retitle(self._name, say("Reading how the entries are set…"))
        self._desk.executor.run(lambda _errand: question(), self._looked, self.failed)

    def _look_again(self) -> None:
        """What is on the list changed while it was read: nobody agrees to what is not in sight."""
        question = self._question
        if question is not None and self.isVisible():
            self._desk.executor.run(lambda _errand: question(), self._looked, self.failed)

    def hint(self, found: tuple[Planned, ...]) -> str:
        """What is said above the list."""
        raise NotImplementedError

    def change(self) -> None:
        """Change the PC, then the book."""
        raise NotImplementedError

    def _looked(self, found: tuple[Planned, ...]) -> None:
        self.retitle(self._name, self.hint(found))
        if found != self.planned:
            self._show(found)
            self.do_button.setFocus()

    def changing(self) -> None:
        """Say that the PC is being changed."""
        self._question = None
        self.do_button.setEnabled(False)
        self.retitle(self._name, say("Changing this PC. You may be asked for a password…"))

    def failed(self, error: Exception) -> None:
        """It stays as it was: said here, where it can be tried again."""
        self.retitle(self._name, "")
        self._allow()
        self._desk.door.trouble(error)

    def _show(self, found: tuple[Planned, ...]) -> None:
        self.planned, self.boxes = found, []
        inner = QWidget()
        lines = QVBoxLayout(inner)
        lines.setContentsMargins(0, 0, 8, 0)
        lines.setSpacing(2)
        for one in found:
            self._add(lines, one)
        lines.addStretch(1)
        self._list.setWidget(inner)
        for button in (self.print_button, self.copy_button):
            button.setVisible(bool(self.boxes))
        self._allow()

    def _add(self, lines: QVBoxLayout, one: Planned) -> None:
        what, about = planned_in_words(one)
        if one.by_hand:
            box = QCheckBox(shown(what))
            box.toggled.connect(self._allow)
            self.boxes.append(box)
            lines.addWidget(box)
        else:
            lines.addWidget(Text(f"→ {shown(what)}"))
        quiet = Text(about)
        quiet.setWordWrap(True)
        quiet.setIndent(22)
        quiet.setProperty("quiet", True)
        lines.addWidget(quiet)
        lines.addSpacing(8)

    def _allow(self) -> None:
        done = all(box.isChecked() for box in self.boxes)
        self.do_button.setEnabled(bool(self.planned) and done)

    # The list for the bench.

    @property
    def _to_do(self) -> str:
        by_hand = [one for one in self.planned if one.by_hand]
        return list_to_do(by_hand, self._desk.job.card if self._desk.job else None)

    def copy(self) -> None:
        """The list to be done by hand, as text."""
        QGuiApplication.clipboard().setText(self._to_do)
        self._desk.door.say(say("The list is copied."))

    def _ask_and_print(self) -> None:
        ask_for_printer(self, self.print_to)

    def print_to(self, printer: QPrinter) -> None:
        """The list to be done by hand, on paper."""
        document = QTextDocument()
        document.setPlainText(self._to_do)
        document.print_(printer)
        self._desk.door.say(say("The list is sent to the printer."))
