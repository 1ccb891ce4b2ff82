"""Arming the recorder for the next boots of this PC, and reading its past boots back."""

from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLabel, QPushButton, QSpinBox

from plucky_ledger.capture.arming import MOST_BOOTS, Level
from plucky_ledger.capture.journal import LoggedBoot
from plucky_ledger.core.book.job import Job
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.panels.panel import Panel
from plucky_ledger.ui.worker import Task, Workers
from plucky_ledger.usecases.arming import arm, armed_folder, armed_state, disarm
from plucky_ledger.usecases.demo import is_stand_in
from plucky_ledger.usecases.past_boots import keep_past_boots, read_past_boots

LEVEL_WORDS = {
    Level.USER: "at sign-in, with the user's services",
    Level.AUTOSTART: "at sign-in, as a sign-in program",
    Level.SYSTEM: "early, with the system's services (administrator)",
}


class ArmPanel(Panel):
    """How many boots, how early; and what the log knows of boots that are over."""

    def __init__(self, desk: Desk) -> None:
        super().__init__("Record the next boots")
        self._desk = desk
        self._job: Job | None = None
        self._workers = Workers(1)
        self._task: Task | None = None
        self.boots = QSpinBox()
        self.boots.setRange(1, MOST_BOOTS)
        self.boots.setValue(3)
        self.boots.setAccessibleName("Boots to record")
        self.level = QComboBox()
        self.level.setAccessibleName("How early the recorder starts")
        for level, words in LEVEL_WORDS.items():
            self.level.addItem(words, level)
        row = QHBoxLayout()
        for widget in (QLabel("The next"), self.boots, QLabel("boots, starting"), self.level):
            row.addWidget(widget)
        row.addStretch(1)
        self.body.addLayout(row)
        self.state = QLabel()
        self.state.setWordWrap(True)
        self.body.addWidget(self.state)
        past = QLabel(
            "<b>Boots that are over.</b> The system's own log may know when they were up and when "
            "their services started: an opening round at once."
        )
        past.setWordWrap(True)
        self.body.addSpacing(20)
        self.body.addWidget(past)
        self.past_button = QPushButton("Read past boots back")
        self.past_button.clicked.connect(self.read_back)
        row = QHBoxLayout()
        row.addWidget(self.past_button)
        self.progress = QLabel()
        self.progress.setProperty("quiet", True)
        row.addWidget(self.progress, 1)
        self.body.addLayout(row)
        self.body.addStretch(1)
        leave = self.add_button("Leave it")
        leave.clicked.connect(self.leave)
        self.disarm_button = self.add_button("Disarm")
        self.disarm_button.clicked.connect(self.disarm)
        self.arm_button = self.add_button("Arm", main=True)
        self.arm_button.clicked.connect(self.arm)

    def begin(self, job: Job) -> None:
        """Show how things stand for a job."""
        self._job = job
        self.refuse("")
        self.progress.setText("")
        self.retitle(
            "Record the next boots",
            "The recorder starts by itself with the next boots of this PC, stops when it has "
            "settled, and removes every trace of itself after the last.",
        )
        self._show_state()

    def _show_state(self) -> None:
        if self._job is None:
            return
        state = armed_state(armed_folder(self._desk.ledger.path, self._job.number))
        simulated = is_stand_in(self._job)
        self.state.setText(
            "This job's PC is simulated: restart and record it with Ctrl+R."
            if simulated
            else state.told or "Not armed."
        )
        self.past_button.setEnabled(not simulated)
        self.arm_button.setEnabled(not state.boots_left and not simulated)
        self.disarm_button.setEnabled(bool(state.boots_left))

    def arm(self) -> None:
        """Install what starts the recorder."""
        if self._job is not None:
            folder = armed_folder(self._desk.ledger.path, self._job.number)
            boots, level = self.boots.value(), Level(self.level.currentData())
            self._desk.work(lambda: arm(folder, boots, level), self._told)

    def disarm(self) -> None:
        """Remove every trace."""
        if self._job is not None:
            folder = armed_folder(self._desk.ledger.path, self._job.number)
            self._desk.work(lambda: disarm(folder), self._told)

    def _told(self, sentence: str) -> None:
        self._show_state()
        self._desk.say(sentence)

    def read_back(self) -> None:
        """Read past boots off this thread; pressed again, it stops."""
        if self._task is not None:
            self._task.stop()
            return

        def work(task: Task) -> object:
            def told(boots: int, lines: int) -> bool:
                task.tell(f"{boots} boots in {lines} lines of the log…")
                return not task.stopping

            return read_past_boots(told)

        self.past_button.setText("Stop reading")
        self._task = self._workers.start(
            work, self._read, self._could_not_read, self.progress.setText
        )

    def _read(self, boots: list[LoggedBoot]) -> None:
        self._ended()
        job = self._job
        if job is not None:
            self._desk.do(
                lambda ledger: keep_past_boots(ledger, job, boots),
                lambda outcome: self._desk.say(outcome.told),
            )

    def _could_not_read(self, error: Exception) -> None:
        self._ended()
        self.refuse(str(error))

    def _ended(self) -> None:
        self._task = None
        self.past_button.setText("Read past boots back")

    def shut_down(self) -> None:
        """The window closes."""
        self._workers.finish()
