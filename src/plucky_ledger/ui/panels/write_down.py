"""Writing down what was, or will be, changed on the PC."""

from itertools import pairwise

from PySide6.QtCore import Signal
from PySide6.QtWidgets import (
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
)

from plucky_ledger.core.job.changes import HAVE_A_VALUE, Change, ChangeKind
from plucky_ledger.core.job.entry_states import pencilled_states
from plucky_ledger.core.pc.which import PcKind
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.ui.choices import Chooser
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.panels.panel import Panel
from plucky_ledger.ui.text import Text
from plucky_ledger.usecases.changing.postings import pencil, write_down
from plucky_ledger.usecases.recording.facts import value_now
from plucky_ledger.wording.labels import label
from plucky_ledger.wording.language import say

MOST_CHANGES = 12


class ChangeLine:
    """The fields of one change."""

    def __init__(self) -> None:
        self.kind = Chooser(say("Kind of change"))
        for choice in ChangeKind:
            self.kind.addItem(label(choice), choice)
        self.what, self.before, self.after, self.why = (QLineEdit() for _ in range(4))
        for field in (self.before, self.after):
            field.setEnabled(False)
        names = (say("What is changed"), say("Value before"), say("Value after"), say("Why"))
        for widget, name in zip(self.widgets[1:], names, strict=True):
            widget.setAccessibleName(name)

    @property
    def widgets(self) -> tuple[QComboBox, QLineEdit, QLineEdit, QLineEdit, QLineEdit]:
        """In the order of the columns."""
        return self.kind, self.what, self.before, self.after, self.why

    @property
    def is_filled_in(self) -> bool:
        """Whether somebody has typed anything."""
        return any(field.text().strip() for field in (self.what, self.before, self.after, self.why))

    @property
    def change(self) -> Change:
        """What is filled in."""
        return Change(
            kind=ChangeKind(self.kind.currentData()),
            what=self.what.text().strip(),
            why=self.why.text().strip(),
            before=self.before.text().strip(),
            after=self.after.text().strip(),
        )


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
                "Everything done before one restart makes one posting. The boots recorded after "
                "the restart show what it saved or cost."
            ),
        )
        self._desk = desk
        self._number: int | None = None
        """Of the job that the lines are about."""
        self.rows: list[ChangeLine] = []
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(10)
        headings = (
            say("Kind"),
            say("What is changed"),
            say("Before"),
            say("After"),
            say("Why"),
        )
        for column, heading in enumerate(headings):
            title = Text(heading)
            title.setProperty("quiet", True)
            self._grid.addWidget(title, 0, column)
        for column, stretch in ((1, 3), (2, 1), (3, 1), (4, 2)):
            self._grid.setColumnStretch(column, stretch)
        self.body.addLayout(self._grid)
        self._add = QPushButton(say("One more change"))
        self._add.clicked.connect(self.add_row)
        row = QHBoxLayout()
        row.addWidget(self._add)
        row.addStretch(1)
        self.body.addLayout(row)
        self.body.addStretch(1)
        self._leave_button = self.add_button(say("Cancel"))
        self._leave_button.clicked.connect(self.leave)
        self.pencil_button = self.add_button(say("Pencil: planned"))
        self.pencil_button.clicked.connect(lambda: self._keep(posted=False))
        self.post_button = self.add_button(say("Post: already done"), main=True)
        self.post_button.clicked.connect(lambda: self._keep(posted=True))

    def begin(self) -> None:
        """What was typed for this job and left, or else one empty line."""
        self.refuse(None)
        number = self._desk.job.number if self._desk.job is not None else None
        if number != self._number or not any(line.is_filled_in for line in self.rows):
            self._number = number
            self._clear()
        self.rows[0].what.setFocus()

    def _clear(self) -> None:
        while self.rows:
            for widget in self.rows.pop().widgets:
                self._grid.removeWidget(widget)
                widget.deleteLater()
        self.add_row()

    def add_row(self) -> None:
        """One more line to fill in."""
        if len(self.rows) >= MOST_CHANGES:
            self.refuse(Refused(TroubleCode.TOO_MANY_CHANGES, most=MOST_CHANGES))
            return
        line = ChangeLine()
        at = len(self.rows) + 1
        for column, widget in enumerate(line.widgets):
            self._grid.addWidget(widget, at, column)
        line.kind.currentIndexChanged.connect(lambda: self._read_value(at, line))
        self.rows.append(line)
        in_order = [field for row in self.rows for field in row.widgets]
        buttons = (self._add, self._leave_button, self.pencil_button, self.post_button)
        for one, following in pairwise((*in_order, *buttons)):
            self.setTabOrder(one, following)
        line.kind.setFocus()

    def _read_value(self, at: int, line: "ChangeLine") -> None:
        """What the PC itself says of the value that is to be changed."""
        job, kind = self._desk.job, ChangeKind(line.kind.currentData())
        has_one = kind in HAVE_A_VALUE
        line.before.setEnabled(has_one)
        line.after.setEnabled(has_one)
        if job is None or not has_one or line.before.text():
            return

        def read(value: str) -> None:
            if line in self.rows and not line.before.text():
                line.before.setText(value)
                line.before.setCursorPosition(0)

        self._desk.executor.ask(f"value {at}", lambda: value_now(job, kind), read)

    def _keep(self, posted: bool) -> None:
        changes = tuple(line.change for line in self.rows if line.what.text().strip())
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
        self._clear()
        self.leave()
        if switching:
            self.post_wanted.emit()
        if self._desk.job is not None:
            self._desk.select_line(len(self._desk.job.postings))
