"""Writing down what was, or will be, changed on the PC."""

from PySide6.QtCore import Signal
from PySide6.QtWidgets import (
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
)

from plucky_ledger.core.book.entry_states import pencilled_states
from plucky_ledger.core.book.job import Change, ChangeKind
from plucky_ledger.core.book.noticed import kind_of_change, outside_changes
from plucky_ledger.core.pc.which import PcKind
from plucky_ledger.core.reasons import Reason
from plucky_ledger.core.trouble import Refused, TroubleCode
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.panels.panel import Panel
from plucky_ledger.ui.text import Text
from plucky_ledger.usecases.postings import pencil, write_down
from plucky_ledger.wording.labels import label
from plucky_ledger.wording.language import say
from plucky_ledger.wording.reasons import reason_in_words

MOST_CHANGES = 12


class WriteDownPanel(Panel):
    """Typed changes: kind, what and why, one line each.

    Signals:
        post_wanted(): what is pencilled is to be posted, with what has to be switched for that.
    """

    post_wanted = Signal()

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
        for reason in self._noticed()[: MOST_CHANGES - 1]:
            self.add_row()
            kind, what, why = self.rows[-1]
            kind.setCurrentIndex(kind.findData(kind_of_change(reason)))
            what.setText(reason_in_words(reason))
            why.setText(say("noticed at the newest boot"))
        self.add_row()

    def _noticed(self) -> list[Reason]:
        """What changed on the PC and is not in the book yet."""
        job = self._desk.job
        if job is None:
            return []
        written = {change.what for change in job.pencilled.changes} if job.pencilled else set()
        return [r for r in outside_changes(job) if reason_in_words(r) not in written]

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
            # Entries that are pencilled have to be switched first.
            switching = posted and job.pc.kind is PcKind.REAL and bool(pencilled_states(job))
            step, number = write_down if posted and not switching else pencil, job.number
            self._desk.do(
                lambda ledger: step(ledger, number, changes),
                lambda _number: self._kept(switching),
            )

    def _kept(self, switching: bool) -> None:
        self.leave()
        if switching:
            self.post_wanted.emit()
        if self._desk.job is not None:
            self._desk.select_line(len(self._desk.job.postings))
