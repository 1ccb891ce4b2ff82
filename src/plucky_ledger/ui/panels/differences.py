"""What was changed here and in a job file, side by side, to choose which stays."""

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QRadioButton, QScrollArea, QWidget

from plucky_ledger.pages.job_file import Difference, difference
from plucky_ledger.ui.panels.panel import Panel
from plucky_ledger.ui.text import Text
from plucky_ledger.usecases.jobs.job_files import Incoming, Side
from plucky_ledger.wording.job_files import DifferenceWords, difference_in_words
from plucky_ledger.wording.language import say


class DifferencesPanel(Panel):
    """One row for each thing that both changed, with a choice; what is here stays without one."""

    def __init__(self) -> None:
        super().__init__(
            say("Changed here and in the file"),
            say(
                "Each was changed at both benches since they were the same. Choose which stays. "
                "What is not listed fits together and is taken in as well. It is one step, and "
                "can be undone."
            ),
        )
        self.choices: dict[str, tuple[QRadioButton, QRadioButton]] = {}
        """By identity: what is here, and what is in the file."""
        self._then: Callable[[dict[str, Side]], None] = lambda _chosen: None
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self.body.addWidget(self._scroll, 1)
        self.add_button(say("Cancel")).clicked.connect(self.leave)
        self.take_button = self.add_button(say("Take in"), main=True)
        self.take_button.clicked.connect(self._take)

    def begin(self, incoming: Incoming, then: Callable[[dict[str, Side]], None]) -> None:
        """Show what both changed; ``then`` is called with what was chosen."""
        self._then, self.choices = then, {}
        table = QWidget()
        grid = QGridLayout(table)
        grid.setHorizontalSpacing(16)
        grid.setVerticalSpacing(8)
        for column, heading in enumerate((say("What"), say("Here"), say("In the file"))):
            title = Text(heading)
            title.setProperty("quiet", True)
            grid.addWidget(title, 0, column)
            grid.setColumnStretch(column, 1)
        for row, conflict in enumerate(incoming.conflicts, 1):
            found = difference(conflict)
            self._add(grid, row, found, difference_in_words(found))
        grid.setRowStretch(len(incoming.conflicts) + 1, 1)
        self._scroll.setWidget(table)
        self.take_button.setFocus()

    def _add(self, grid: QGridLayout, row: int, found: Difference, words: DifferenceWords) -> None:
        what = Text(words.what)
        what.setWordWrap(True)
        grid.addWidget(what, row, 0, Qt.AlignmentFlag.AlignTop)
        buttons = []
        for column, (side, text) in enumerate(
            ((say("Here"), words.ours), (say("In the file"), words.theirs)), 1
        ):
            cell = QWidget()
            lines = QGridLayout(cell)
            lines.setContentsMargins(0, 0, 0, 0)
            button = QRadioButton()
            button.setAccessibleName(f"{words.what}. {side}: {text}")
            about = Text(text)
            about.setWordWrap(True)
            lines.addWidget(button, 0, 0, Qt.AlignmentFlag.AlignTop)
            lines.addWidget(about, 0, 1)
            lines.setColumnStretch(1, 1)
            grid.addWidget(cell, row, column, Qt.AlignmentFlag.AlignTop)
            buttons.append(button)
        ours, theirs = buttons
        ours.setAutoExclusive(False)
        theirs.setAutoExclusive(False)
        ours.setChecked(True)
        ours.toggled.connect(lambda on: theirs.setChecked(not on))
        theirs.toggled.connect(lambda on: ours.setChecked(not on))
        self.choices[found.identity] = (ours, theirs)

    def _take(self) -> None:
        chosen = {
            identity: Side.THEIRS if theirs.isChecked() else Side.OURS
            for identity, (_, theirs) in self.choices.items()
        }
        self.leave()
        self._then(chosen)
