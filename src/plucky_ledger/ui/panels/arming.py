"""Arming the recorder for the next boots of a job's PC, and reading its past boots back."""

from html import escape

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QSpinBox

from plucky_ledger.core.job.job import Job
from plucky_ledger.core.pc.abilities import Abilities
from plucky_ledger.core.pc.arming import LOOK_SECONDS, MOST_BOOTS, Afterwards, Level
from plucky_ledger.core.values.reasons import Reason
from plucky_ledger.core.values.trouble import Trouble, TroubleCode
from plucky_ledger.ui.choices import Chooser
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.executor import Errand
from plucky_ledger.ui.panels.panel import Panel
from plucky_ledger.ui.text import Marked, Text
from plucky_ledger.usecases.jobs.preferences import Preferences, read_preferences
from plucky_ledger.usecases.recording.arming import ArmedState, arm, armed_state, disarm, restart
from plucky_ledger.usecases.recording.past_boots import keep_past_boots, read_past_boots
from plucky_ledger.usecases.recording.pcs import Pc, pc_of
from plucky_ledger.wording.disarming import disarmed
from plucky_ledger.wording.labels import label
from plucky_ledger.wording.language import say
from plucky_ledger.wording.reasons import in_one_line
from plucky_ledger.wording.recording import (
    armed,
    cannot_be_armed,
    misses,
    read_back,
    reading_back,
    recorded_notices,
)
from plucky_ledger.wording.recording import armed_state as armed_state_in_words


def _looked_at(pc: Pc, armed: ArmedState) -> tuple[Abilities, ArmedState, tuple[Reason, ...]]:
    abilities = pc.abilities
    return abilities, armed, pc.restart_ends() if abilities.arm else ()


class ArmPanel(Panel):
    """How many boots, how early; and what can be had without a restart.

    Signals:
        record_wanted(): record the PC as it is now instead.
    """

    record_wanted = Signal()

    def __init__(self, desk: Desk) -> None:
        super().__init__(say("Record the next boots"))
        self._desk = desk
        self._job: Job | None = None
        self._errand: Errand | None = None
        self._armed = False
        self._look_seconds = LOOK_SECONDS
        self.boots = QSpinBox()
        self.boots.setRange(1, MOST_BOOTS)
        self.boots.setAccessibleName(say("Boots to record"))
        self.level = Chooser(say("How early the recorder starts"))
        self.level.addItem(say("as early as possible"), None)
        for level in Level:
            self.level.addItem(label(level), level)
        self.level.currentIndexChanged.connect(self._show_misses)
        row = QHBoxLayout()
        words = Text(say("The next")), Text(say("boots, starting"))
        for widget in (words[0], self.boots, words[1], self.level):
            row.addWidget(widget)
        row.addStretch(1)
        self.body.addLayout(row)
        self.misses = Text()
        self.misses.setWordWrap(True)
        self.misses.setProperty("quiet", True)
        self.body.addWidget(self.misses)
        self.state = Text()
        self.state.setWordWrap(True)
        self.body.addWidget(self.state)
        self.ends = Text()
        self.ends.setWordWrap(True)
        self.ends.setProperty("bad", True)
        self.ends.hide()
        self.body.addWidget(self.ends)
        self.body.addSpacing(20)
        self._add_past_boots()
        self.body.addSpacing(12)
        self._add_at_rest()
        self.body.addStretch(1)
        leave = self.add_button(say("Cancel"))
        leave.clicked.connect(self.leave)
        self.disarm_button = self.add_button(say("Disarm"))
        self.disarm_button.clicked.connect(self.disarm)
        self.arm_button = self.add_button(say("Arm"))
        self.arm_button.clicked.connect(self.arm)
        self.restart_button = self.add_button(say("Arm and restart"), main=True)
        self.restart_button.clicked.connect(self.restart)

    def _add_past_boots(self) -> None:
        self._add_paragraph(
            say("Past boots."),
            say(
                "The system's log may say when they were up and when their services started. "
                "That makes an opening round at once."
            ),
        )
        self.past_button = QPushButton(say("Read past boots back"))
        self.past_button.clicked.connect(self.read_back)
        self.administrator_button = QPushButton(say("Read as administrator"))
        self.administrator_button.clicked.connect(lambda: self._read_back(as_administrator=True))
        self.administrator_button.hide()
        row = QHBoxLayout()
        row.addWidget(self.past_button)
        row.addWidget(self.administrator_button)
        self.progress = Text()
        self.progress.setProperty("quiet", True)
        row.addWidget(self.progress, 1)
        self.body.addLayout(row)

    def _add_at_rest(self) -> None:
        self._add_paragraph(
            say("As it is now."),
            say(
                "Recorded long after its start, a PC shows what its programs use at rest, but no "
                "boot time."
            ),
        )
        self.at_rest_button = QPushButton(say("Record at rest now"))
        self.at_rest_button.clicked.connect(self.record_wanted)
        row = QHBoxLayout()
        row.addWidget(self.at_rest_button)
        row.addStretch(1)
        self.body.addLayout(row)

    def _add_paragraph(self, heading: str, text: str) -> None:
        paragraph = Marked(f"<b>{escape(heading)}</b> {escape(text)}")
        paragraph.setWordWrap(True)
        self.body.addWidget(paragraph)

    @property
    def _chosen_level(self) -> Level | None:
        """How early it is to start; None for as early as can be had."""
        chosen = self.level.currentData()
        return Level(chosen) if chosen else None

    def _show_misses(self) -> None:
        self.misses.setText(misses(self._chosen_level))

    def begin(self, job: Job) -> None:
        """Show how things stand for a job."""
        self._job = job
        self._desk.executor.ask("preferences", read_preferences, self._prefer)
        self.refuse(None)
        self.progress.setText("")
        self.administrator_button.hide()
        self._show_misses()
        self.retitle(
            say("Record the next boots"),
            say(
                "The recorder starts by itself with the next boots of this PC, stops when the PC "
                "has settled, and removes every trace of itself after the last. A restart closes "
                "what is open on this PC."
            ),
        )
        self._ask_state()

    def _ask_state(self) -> None:
        job, place = self._job, self._desk.workshop.place
        if job is not None:
            self._desk.executor.ask(
                "armed",
                lambda: _looked_at(pc_of(job), armed_state(place, job.number)),
                self._show_state,
            )

    def _show_state(self, known: tuple[Abilities, ArmedState, tuple[Reason, ...]]) -> None:
        abilities, state, ends = known
        self.ends.setText(in_one_line(ends))
        self.ends.setVisible(bool(ends))
        sentence = armed_state_in_words(state) if abilities.arm else cannot_be_armed(abilities)
        self.state.setText(sentence)
        self.past_button.setEnabled(abilities.past_boots)
        self._armed = bool(state.boots_left)
        self.arm_button.setEnabled(not self._armed and abilities.arm)
        self.disarm_button.setEnabled(self._armed)
        self.restart_button.setEnabled(abilities.arm)
        self.restart_button.setText(say("Restart") if self._armed else say("Arm and restart"))

    def _prefer(self, preferences: Preferences) -> None:
        """So many boots are usual, and such a look afterwards."""
        self.boots.setValue(preferences.boots)
        self._look_seconds = preferences.look_minutes * 60

    def arm(self) -> None:
        """Install what starts the recorder."""
        self._arm(then_restart=False)

    def _arm(self, then_restart: bool) -> None:
        job, shop = self._job, self._desk.workshop
        if job is None:
            return
        number, boots, level = job.number, self.boots.value(), self._chosen_level
        then = Afterwards(self._look_seconds, recorded_notices())

        def done(reached: Level) -> None:
            self._told(armed(boots, reached))
            # Who is to get less than the best reads it first, and presses once more.
            if then_restart and reached in {level, Level.SYSTEM}:
                self._restart_now()

        self._desk.executor.run(
            lambda _errand: arm(shop.ledger, shop.place, number, boots, level, then), done
        )

    def restart(self) -> None:
        """Arm, where it is not armed yet, and restart the PC."""
        if self._armed:
            self._restart_now()
        else:
            self._arm(then_restart=True)

    def _restart_now(self) -> None:
        job, ledger = self._job, self._desk.ledger
        if job is not None:
            number = job.number
            self._desk.executor.run(
                lambda _errand: restart(ledger, number),
                lambda _none: self._desk.door.say(say("This PC restarts.")),
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
        self._read_back(as_administrator=False)

    def _read_back(self, as_administrator: bool) -> None:
        job, ledger = self._job, self._desk.ledger
        if job is None:
            return
        number = job.number
        self.refuse(None)
        self.administrator_button.hide()

        def work(errand: Errand) -> list[bytes]:
            def progress(boots: int, lines: int) -> bool:
                errand.tell(reading_back(boots, lines))
                return errand.going_on

            return read_past_boots(ledger, number, progress, as_administrator)

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
        may_help = error.code is TroubleCode.JOURNAL_NOT_FOR_USERS
        self.administrator_button.setVisible(may_help)
        self.refuse(error)

    def _ended(self) -> None:
        self._errand = None
        self.past_button.setText(say("Read past boots back"))
