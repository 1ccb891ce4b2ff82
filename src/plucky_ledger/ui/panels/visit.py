"""The PC comes in again: what is complained of this time."""

from PySide6.QtWidgets import QLineEdit

from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.panels.panel import Panel
from plucky_ledger.usecases.jobs.visits import begin_visit
from plucky_ledger.wording.language import say


class VisitPanel(Panel):
    """Begins a later visit: a new opening in the same book."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(
            say("Take it in again"),
            say(
                "The book goes on. Record this visit's opening boots before you change anything: "
                "they are compared with the last closing. Boots of today count already."
            ),
        )
        self._desk = desk
        self._number: int | None = None
        """Of the job it is about."""
        self.complaint = QLineEdit()
        self.complaint.setPlaceholderText(say("such as: slow again since the summer"))
        self.complaint.setAccessibleName(say("Reported problem this time"))
        self.body.addWidget(self.complaint)
        self.body.addStretch(1)
        leave = self.add_button(say("Cancel"))
        leave.clicked.connect(self.leave)
        self.keep_button = self.add_button(say("Take it in again"), main=True)
        self.keep_button.clicked.connect(self.keep)

    def begin(self) -> None:
        """Ask what is complained of; what was typed for this job and left is there still."""
        number = self._desk.job.number if self._desk.job is not None else None
        if number != self._number:
            self._number = number
            self.complaint.clear()
        self.refuse(None)
        self.complaint.setFocus()

    def keep(self) -> None:
        """Open the line of this visit."""
        job, complaint = self._desk.job, self.complaint.text()
        if job is None:
            return
        number = job.number

        def begun(_posting: int) -> None:
            self.complaint.clear()
            self.leave()
            self._desk.stand_at_newest()

        self._desk.do(lambda ledger: begin_visit(ledger, number, complaint), begun)
