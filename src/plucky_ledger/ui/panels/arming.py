"""Arming the recorder for the next boots of a job's PC, and reading its past boots back."""

from html import escape

from PySide6.QtWidgets import QComboBox, QHBoxLayout, QPushButton, QSpinBox

from plucky_ledger.core.book.job import Job
from plucky_ledger.core.pc.abilities import Abilities
from plucky_ledger.core.pc.arming import MOST_BOOTS, Level
from plucky_ledger.core.trouble import Trouble
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.executor import Errand
from plucky_ledger.ui.panels.panel import Panel
from plucky_ledger.ui.text import Marked, Text
from plucky_ledger.usecases.arming import ArmedState, arm, armed_state, disarm
from plucky_ledger.usecases.past_boots import keep_past_boots, read_past_boots
from plucky_ledger.usecases.pcs import pc_of
from plucky_ledger.wording.disarming import disarmed
from plucky_ledger.wording.labels import label
from plucky_ledger.wording.language import say
from plucky_ledger.wording.recording import (
    armed,
    cannot_be_armed,
    read_back,
    reading_back,
)
from plucky_ledger.wording.recording import armed_state as armed_state_in_words

LEVELS = (Level.USER, Level.AUTOSTART, Level.SYSTEM)


class ArmPanel(Panel):
    """How many boots, how early; and what the log knows of boots that are over."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(say("Record the next boots"))
        self._desk = desk
        self._job: Job | None = None
        self._errand: Errand | None = None
        self.boots = QSpinBox()
        self.boots.setRange(1, MOST_BOOTS)
        self.boots.setValue(3)
        self.boots.setAccessibleName(say("Boots to record"))
        self.level = QComboBox()
        self.level.setAccessibleName(say("How early the recorder starts"))
        for level in LEVELS:
            self.level.addItem(label(level), level)
        row = QHBoxLayout()
        words = Text(say("The next")), Text(say("boots, starting"))
        for widget in (words[0], self.boots, words[1], self.level):
            row.addWidget(widget)
        row.addStretch(1)
        self.body.addLayout(row)
        self.state = Text()
        self.state.setWordWrap(True)
        self.body.addWidget(self.state)
        self.body.addSpacing(20)
        self._add_past_boots()
        self.body.addStretch(1)
        leave = self.add_button(say("Leave it"))
        leave.clicked.connect(self.leave)
        self.disarm_button = self.add_button(say("Disarm"))
        self.disarm_button.clicked.connect(self.disarm)
        self.arm_button = self.add_button(say("Arm"), main=True)
        self.arm_button.clicked.connect(self.arm)

    def _add_past_boots(self) -> None:
        heading = escape(say("Boots that are over."))
        text = escape(
            say(
                "The system's own log may know when they were up and when their services started: "
                "an opening round at once."
            )
        )
        past = Marked(f"<b>{heading}</b> {text}")
        past.setWordWrap(True)
        self.body.addWidget(past)
        self.past_button = QPushButton(say("Read past boots back"))
        self.past_button.clicked.connect(self.read_back)
        row = QHBoxLayout()
        row.addWidget(self.past_button)
        self.progress = Text()
        self.progress.setProperty("quiet", True)
        row.addWidget(self.progress, 1)
        self.body.addLayout(row)

    def begin(self, job: Job) -> None:
        """Show how things stand for a job."""
        self._job = job
        self.refuse(None)
        self.progress.setText("")
        self.retitle(
            say("Record the next boots"),
            say(
                "The recorder starts by itself with the next boots of this PC, stops when it has "
                "settled, and removes every trace of itself after the last."
            ),
        )
        self._ask_state()

    def _ask_state(self) -> None:
        job, place = self._job, self._desk.workshop.place
        if job is not None:
            self._desk.executor.ask(
                "armed",
                lambda: (pc_of(job).abilities, armed_state(place, job.number)),
                self._show_state,
            )

    def _show_state(self, known: tuple[Abilities, ArmedState]) -> None:
        abilities, state = known
        sentence = armed_state_in_words(state) if abilities.arm else cannot_be_armed(abilities)
        self.state.setText(sentence)
        self.past_button.setEnabled(abilities.past_boots)
        self.arm_button.setEnabled(not state.boots_left and abilities.arm)
        self.disarm_button.setEnabled(bool(state.boots_left))

    def arm(self) -> None:
        """Install what starts the recorder."""
        job, shop = self._job, self._desk.workshop
        if job is not None:
            number, boots = job.number, self.boots.value()
            level = Level(self.level.currentData())
            self._desk.executor.run(
                lambda _errand: arm(shop.ledger, shop.place, number, boots, level),
                lambda _none: self._told(armed(boots)),
            )

    def disarm(self) -> None:
        """Remove every trace."""
        job, shop = self._job, self._desk.workshop
        if job is not None:
            number = job.number
            self._desk.executor.run(
                lambda _errand: disarm(shop.ledger, shop.place, number),
                lambda was_armed: self._told(disarmed(was_armed)),
            )

    def _told(self, sentence: str) -> None:
        self._ask_state()
        self._desk.door.say(sentence)

    def read_back(self) -> None:
        """Read past boots off this thread; pressed again, it stops."""
        if self._errand is not None:
            self._errand.stop()
            return
        job, ledger = self._job, self._desk.ledger
        if job is None:
            return
        number = job.number

        def work(errand: Errand) -> list[bytes]:
            def progress(boots: int, lines: int) -> bool:
                errand.tell(reading_back(boots, lines))
                return errand.going_on

            return read_past_boots(ledger, number, progress)

        self.past_button.setText(say("Stop reading"))
        self._errand = self._desk.executor.run(
            work,
            lambda recordings: self._read(number, recordings),
            self._failed,
            self.progress.setText,
        )

    def _read(self, number: int, recordings: list[bytes]) -> None:
        self._ended()
        self._desk.do(
            lambda ledger: keep_past_boots(ledger, number, recordings),
            lambda outcome: self._desk.door.say(read_back(outcome)),
        )

    def _failed(self, error: Exception) -> None:
        self._ended()
        if not isinstance(error, Trouble):
            raise error
        self.refuse(error)

    def _ended(self) -> None:
        self._errand = None
        self.past_button.setText(say("Read past boots back"))
