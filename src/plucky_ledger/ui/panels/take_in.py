"""Taking a PC in: whose it is, what is complained of, what it has."""

from dataclasses import replace
from html import escape

from PySide6.QtWidgets import (
    QFormLayout,
    QHBoxLayout,
    QLineEdit,
    QPlainTextEdit,
    QPushButton,
)

from plucky_ledger.core.job.job import Card, Job
from plucky_ledger.core.pc.facts import Drive, DriveKind, Facts
from plucky_ledger.core.pc.which import THIS_OR_ANOTHER, WhichPc
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.ui.choices import Chooser
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.panels.fields import FigureField
from plucky_ledger.ui.panels.panel import Panel, form
from plucky_ledger.ui.text import Marked, Text, explain
from plucky_ledger.usecases.jobs.jobs import rewrite_card, take_in
from plucky_ledger.usecases.recording.facts import name_of_this_pc, read_this_pc
from plucky_ledger.wording.facts import more_facts
from plucky_ledger.wording.figures import day_and_time
from plucky_ledger.wording.labels import label
from plucky_ledger.wording.language import say

WIDEST = 680
"""Longer lines are hard to fill in."""
GIBIBYTE = 2**30
GIGABYTE = 10**9


class TakeInPanel(Panel):
    """The job card with the PC's facts, for a new job or to change one."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(say("Take in a PC"))
        self._desk = desk
        self._job: Job | None = None
        self._left = Card("", "")
        """A new card as it was left, to be gone on with."""
        self._facts = Facts()
        self._wanted = False
        """It is this PC: what was asked of it is waited for."""
        self._pc: WhichPc | None = None
        """Which PC the facts were read from; None while they were not."""
        self.title = QLineEdit()
        self.title.setPlaceholderText(say("such as Ticket-desk PC"))
        self.label = QLineEdit()
        self.label.setPlaceholderText(say("next free number"))
        self.owner = QLineEdit()
        self.complaint = QPlainTextEdit()
        self.complaint.setTabChangesFocus(True)
        self.complaint.setMaximumHeight(70)
        card = form()
        for text, field in (
            (say("PC"), self.title),
            (say("Label"), self.label),
            (say("Owner"), self.owner),
            (say("Reported problem"), self.complaint),
        ):
            field.setAccessibleName(text)
            card.addRow(text, field)
        self.body.addLayout(card)
        self._facts_title = Marked(f"<b>{escape(say('What it has'))}</b>")
        self.body.addWidget(self._facts_title)
        self.read_button = QPushButton(say("&This PC"))
        explain(self.read_button, say("Fill in its name and what it has."))
        self.read_button.clicked.connect(self.read_this_pc)
        self.other_button = QPushButton(say("&Another PC"))
        explain(self.other_button, say("Type its name and what it has."))
        self.other_button.clicked.connect(self.another_pc)
        self._uptime = Text()
        self._uptime.setProperty("quiet", True)
        row = QHBoxLayout()
        row.addWidget(self.read_button)
        row.addWidget(self.other_button)
        row.addWidget(self._uptime, 1)
        self.body.addLayout(row)
        self.body.addLayout(self._facts_form())
        self.body.addStretch(1)
        for field in (
            self.title,
            self.label,
            self.owner,
            self.complaint,
            self.os_release,
            self.kernel,
            self.cpu,
        ):
            field.setMaximumWidth(WIDEST)
        self.cancel_button = self.add_button(say("Cancel"))
        self.cancel_button.clicked.connect(self.leave)
        self.keep_button = self.add_button(say("Take in"), main=True)
        self.keep_button.clicked.connect(self.keep)

    def _facts_form(self) -> QFormLayout:
        self.os_release, self.kernel, self.cpu = QLineEdit(), QLineEdit(), QLineEdit()
        self.cores = FigureField(say("Cores"), "4")
        self.memory = FigureField(say("Memory in GB"), "8")
        self.drive_kind = Chooser(say("Kind of the system disk"))
        for kind in (DriveKind.SOLID_STATE, DriveKind.ROTATING, DriveKind.UNKNOWN):
            self.drive_kind.addItem(label(kind), kind)
        self.drive_size = FigureField(say("System disk, size in GB"), "500")
        self.drive_free = FigureField(say("System disk, free in GB"), "61")
        facts = form()
        for text, field in (
            (say("OS release"), self.os_release),
            (say("Kernel"), self.kernel),
            (say("CPU model"), self.cpu),
            (say("Cores"), self.cores),
            (say("Memory, GB"), self.memory),
        ):
            field.setAccessibleName(text)
            facts.addRow(text, field)
        drive = QHBoxLayout()
        drive.setSpacing(8)
        for widget in (
            self.drive_kind,
            self.drive_size,
            Text(say("GB, free")),
            self.drive_free,
            Text("GB"),
        ):
            drive.addWidget(widget)
        drive.addStretch(1)
        facts.addRow(say("System disk"), drive)
        return facts

    def show_new(self, this_pc: bool = True) -> None:
        """A new card: this PC's, with what it has filled in, or another's."""
        self._job = None
        self._fill(self._left, Facts())
        hint = say(
            "Type the owner and the reported problem. Choose this PC, or another one (Alt+A)."
        )
        if self._desk.is_demo:
            warning = say("This is the demo: a customer's PC belongs into your own ledger.")
            hint = f"{warning} {hint}"
        self.retitle(say("Take in a PC"), hint)
        self.keep_button.setText(say("Take in"))
        self.title.setFocus()
        if this_pc:
            self.read_this_pc()

    def another_pc(self) -> None:
        """It is another PC: nothing of this one is filled in."""
        if self.title.text() == name_of_this_pc():
            self.title.clear()
        self._pc = None
        self._fill_facts(Facts())
        self._wanted = False
        self.title.setFocus()

    def show_job(self, job: Job) -> None:
        """The card of a job, to be changed."""
        self._job = job
        self._fill(job.card, job.facts)
        self.retitle(
            say("Job card"),
            say(
                "Job {label}, taken in on {when}.",
                label=job.card.label,
                when=day_and_time(job.taken_in_at),
            ),
        )
        self.keep_button.setText(say("Save"))
        self.title.setFocus()

    def _fill(self, card: Card, facts: Facts) -> None:
        self._pc, self._wanted = None, False
        self.refuse(None)
        self.label.setText(card.label)
        self.title.setText(card.title)
        self.owner.setText(card.owner)
        self.complaint.setPlainText(card.complaint)
        self._fill_facts(facts)

    def _fill_facts(self, facts: Facts) -> None:
        self._facts = facts
        self.os_release.setText(facts.os_release)
        self.kernel.setText(facts.kernel)
        self.cpu.setText(facts.cpu_model)
        self.cores.put(facts.cores, 0)
        self.memory.put(facts.memory_bytes / GIBIBYTE if facts.memory_bytes else None)
        drive = facts.drives[0] if facts.drives else None
        self.drive_size.put(drive.size_bytes / GIGABYTE if drive else None, 0)
        free = drive.free_bytes if drive else None
        self.drive_free.put(free / GIGABYTE if free is not None else None, 0)
        kind = drive.kind if drive else DriveKind.UNKNOWN
        self.drive_kind.setCurrentIndex(self.drive_kind.findData(kind))
        self._uptime.setText(more_facts(facts))

    def read_this_pc(self) -> None:
        """Fill in the name of the PC this runs on, and what it has."""
        self._wanted = True
        if not self.title.text():
            self.title.setText(name_of_this_pc())
            self.title.selectAll()
        self._desk.executor.ask("facts", read_this_pc, self._read)

    def _read(self, known: tuple[WhichPc, Facts]) -> None:
        if self._wanted:
            self._pc, facts = known
            self._fill_facts(facts)

    def keep(self) -> None:
        """Write the card into the ledger."""
        try:
            facts = self._typed_facts()
        except Refused as refused:
            self.refuse(refused)
            return
        card = Card(
            self.label.text(), self.title.text(), self.owner.text(), self.complaint.toPlainText()
        )
        job, pc = self._job, self._pc
        if not card.title.strip():
            self.refuse(Refused(TroubleCode.NO_TITLE))
            return
        if job is None:
            which = pc or THIS_OR_ANOTHER
            self._desk.do(lambda ledger: take_in(ledger, card, facts, which), self._taken_in)
        else:
            number = job.number
            self._desk.do(
                lambda ledger: rewrite_card(ledger, number, card, facts, pc),
                lambda _none: self.leave(),
            )

    def leave(self) -> None:
        """What was typed of a new card is there still the next time."""
        if self._job is None:
            self._left = self._typed_card()
        super().leave()

    def _typed_card(self) -> Card:
        title, complaint = self.title.text(), self.complaint.toPlainText()
        card = Card(self.label.text(), title, self.owner.text(), complaint)
        return replace(card, title="") if title == name_of_this_pc() else card

    def _taken_in(self, number: int) -> None:
        self._fill(Card("", ""), Facts())
        self.leave()
        self._desk.open_job(number)

    def _typed_facts(self) -> Facts:
        cores, memory = self.cores.figure(), self.memory.figure()
        size, free = self.drive_size.figure(), self.drive_free.figure()
        drives = self._facts.drives
        if size is not None:
            first = drives[0] if drives else Drive("", DriveKind.UNKNOWN, 0)
            kept_size = _same(first.size_bytes / GIGABYTE, size, first.size_bytes)
            kept_free = None
            if free is not None:
                free_bytes = first.free_bytes
                kept_free = _same((free_bytes or 0) / GIGABYTE, free, free_bytes or 0)
            system = replace(
                first,
                kind=DriveKind(self.drive_kind.currentData()),
                size_bytes=kept_size,
                free_bytes=kept_free,
            )
            drives = (system, *drives[1:])
        read = self._facts.memory_bytes
        return replace(
            self._facts,
            os_release=self.os_release.text().strip(),
            kernel=self.kernel.text().strip(),
            cpu_model=self.cpu.text().strip(),
            cores=int(cores) if cores else None,
            memory_bytes=_same((read or 0) / GIBIBYTE, memory, read or 0, 1, GIBIBYTE)
            if memory
            else None,
            drives=drives,
        )


def _same(shown: float, typed: float, exact: int, decimals: int = 0, unit: int = GIGABYTE) -> int:
    """The exact figure while the field still shows it rounded; otherwise what was typed."""
    return exact if f"{shown:.{decimals}f}" == f"{typed:.{decimals}f}" else int(typed * unit)
