"""Writing down what was, or will be, changed on the PC."""

from PySide6.QtWidgets import (
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
)

from plucky_ledger.core.book.job import Change, ChangeKind
from plucky_ledger.core.trouble import Refused, TroubleCode
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.panels.panel import Panel
from plucky_ledger.ui.text import Text
from plucky_ledger.usecases.postings import pencil, write_down
from plucky_ledger.wording.labels import label
from plucky_ledger.wording.language import say

MOST_CHANGES = 12


class WriteDownPanel(Panel):
    """Typed changes: kind, what and why, one line each."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(
            say("Write down changes"),
            say(
                "What is done together before one restart makes one posting. The boots recorded "
                "after "
                "the restart show what it saved or cost."
            ),
        )
        self._desk = desk
        self.rows: list[tuple[QComboBox, QLineEdit, QLineEdit]] = []
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(10)
        headings = (say("Kind"), say("What is changed"), say("Why"))
        for column, heading in enumerate(headings):
            title = Text(heading)
            title.setProperty("quiet", True)
            self._grid.addWidget(title, 0, column)
        self._grid.setColumnStretch(1, 3)
        self._grid.setColumnStretch(2, 2)
        self.body.addLayout(self._grid)
        add = QPushButton(say("One more change"))
        add.clicked.connect(self.add_row)
        row = QHBoxLayout()
        row.addWidget(add)
        row.addStretch(1)
        self.body.addLayout(row)
        self.body.addStretch(1)
        leave = self.add_button(say("Leave it"))
        leave.clicked.connect(self.leave)
        self.pencil_button = self.add_button(say("Planned: pencil it"))
        self.pencil_button.clicked.connect(lambda: self._keep(posted=False))
        self.post_button = self.add_button(say("Done: post it"), main=True)
        self.post_button.clicked.connect(lambda: self._keep(posted=True))

    def begin(self) -> None:
        """One empty line."""
        self.refuse(None)
        while self.rows:
            for widget in self.rows.pop():
                self._grid.removeWidget(widget)
                widget.deleteLater()
        self.add_row()

    def add_row(self) -> None:
        """One more line to fill in."""
        if len(self.rows) >= MOST_CHANGES:
            self.refuse(Refused(TroubleCode.TOO_MANY_CHANGES, most=MOST_CHANGES))
            return
        kind, what, why = QComboBox(), QLineEdit(), QLineEdit()
        for choice in ChangeKind:
            kind.addItem(label(choice), choice)
        kind.setAccessibleName(say("Kind of change"))
        what.setAccessibleName(say("What is changed"))
        why.setAccessibleName(say("Why"))
        line = len(self.rows) + 1
        for column, widget in enumerate((kind, what, why)):
            self._grid.addWidget(widget, line, column)
        self.rows.append((kind, what, why))
        kind.setFocus()

    def _keep(self, posted: bool) -> None:
        changes = tuple(
            Change(ChangeKind(kind.currentData()), what.text().strip(), why.text().strip())
            for kind, what, why in self.rows
            if what.text().strip()
        )
        job = self._desk.job
        if not changes:
            self.refuse(Refused(TroubleCode.NO_CHANGE_SAID))
        elif job is not None:
            step, number = write_down if posted else pencil, job.number
            self._desk.do(
                lambda ledger: step(ledger, number, changes), lambda _number: self._kept()
            )

    def _kept(self) -> None:
        self.leave()
        if self._desk.job is not None:
            self._desk.select_line(len(self._desk.job.postings))
