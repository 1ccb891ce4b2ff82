"""Typing startup entries in, for a PC that can run nothing of ours."""

from PySide6.QtWidgets import QPlainTextEdit

from plucky_ledger.core.entries.entry import StartupEntry
from plucky_ledger.core.job.job import Job
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.panels.panel import Panel
from plucky_ledger.usecases.recording.typed_entries import type_entries, typed_entries
from plucky_ledger.wording.language import say, say_n


class TypeEntriesPanel(Panel):
    """One line an entry."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(
            say("Type entries in"),
            say(
                "One line for each entry: its name, then a bar | and what it runs, if you know. "
                "Decide about them like about any other. Their cost is not known, because no "
                "programs were recorded."
            ),
        )
        self._desk = desk
        self._job: Job | None = None
        self.lines = QPlainTextEdit()
        self.lines.setPlaceholderText(say("Foghorn Notify | /opt/foghorn/notify\nDeckhand Updater"))
        self.lines.setAccessibleName(say("Startup entries, one a line"))
        self.lines.setTabChangesFocus(True)
        self.body.addWidget(self.lines, 1)
        leave = self.add_button(say("Cancel"))
        leave.clicked.connect(self.leave)
        self.keep_button = self.add_button(say("Save the list"), main=True)
        self.keep_button.clicked.connect(self._keep)

    def begin(self, job: Job) -> None:
        """Show what was typed before."""
        self.refuse(None)
        self._job = job
        ledger, number = self._desk.ledger, job.number
        self._desk.executor.ask("typed", lambda: typed_entries(ledger, number), self._show)

    def _show(self, entries: tuple[StartupEntry, ...]) -> None:
        lines = (" | ".join(filter(None, (entry.name, entry.command))) for entry in entries)
        self.lines.setPlainText("\n".join(lines))
        self.lines.setFocus()

    def _keep(self) -> None:
        job, text = self._job, self.lines.toPlainText()
        if job is not None:
            number = job.number
            self._desk.do(lambda ledger: type_entries(ledger, number, text), self._kept)

    def _kept(self, number: int) -> None:
        self.leave()
        self._desk.door.say(say_n("{n} entry typed in.", "{n} entries typed in.", number))
