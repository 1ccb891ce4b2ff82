"""The bench panel: a boot while it is being recorded, whatever PC it is of."""

from pathlib import Path

from PySide6.QtCore import QTimer, Signal
from PySide6.QtWidgets import QHBoxLayout, QProgressBar, QSpinBox, QWidget

from plucky_ledger.core.job.job import Job
from plucky_ledger.core.pc.abilities import RecordHow
from plucky_ledger.core.values.trouble import Trouble
from plucky_ledger.pages.live import LiveBoot
from plucky_ledger.ui.accessible.announcing import READ_OUT_EVERY_SECONDS, Announcer, announce
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.executor import Errand
from plucky_ledger.ui.panels.live_machine import LiveMachine
from plucky_ledger.ui.panels.panel import Panel
from plucky_ledger.ui.saving_pictures import offer_alone
from plucky_ledger.ui.text import Text
from plucky_ledger.usecases.recording.boots import Imported
from plucky_ledger.usecases.recording.pcs import Pc, pc_of
from plucky_ledger.usecases.recording.recording import (
    new_recording,
    pc_to_record,
    record,
    take_over,
)
from plucky_ledger.wording.lanes import strips_in_words
from plucky_ledger.wording.language import say
from plucky_ledger.wording.recording import (
    kept,
    marks_so_far,
    progress,
    record_title,
    start_button,
)

DEFAULT_SECONDS = 60
REFRESH_MILLISECONDS = 250


class RecordingPanel(Panel):
    """Starts the recorder, shows what it sends, and takes the recording into the book.

    It may be left while recording, which goes on and is said in the head of the window.

    Signals:
        running_changed(): recording began or ended.
        in_the_book(): what was recorded has come into the book.
    """

    running_changed = Signal()
    in_the_book = Signal()

    def __init__(self, desk: Desk) -> None:
        super().__init__(say("Record a boot"))
        self._desk = desk
        self._job: Job | None = None
        self._live = LiveBoot(DEFAULT_SECONDS)
        self._errand: Errand | None = None
        self._keep = True
        self.machine = LiveMachine()
        offer_alone(desk, self.machine)
        self._state = Text()
        self._state.setWordWrap(True)
        self._marks = Text()
        self._marks.setWordWrap(True)
        self._progress = QProgressBar()
        self._progress.setTextVisible(False)
        self._progress.setRange(0, 1000)
        self.seconds = QSpinBox()
        self.seconds.setRange(1, 3600)
        self.seconds.setValue(DEFAULT_SECONDS)
        self.seconds.setSuffix(" s")
        self.seconds.setAccessibleName(say("Seconds to record"))
        self._settings = QWidget()
        row = QHBoxLayout(self._settings)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(Text(say("Record this PC for")))
        row.addWidget(self.seconds)
        row.addStretch(1)
        self.body.addWidget(self._settings)
        self.body.addWidget(self.machine, 1)
        self.body.addWidget(self._progress)
        self.body.addWidget(self._state)
        self.body.addWidget(self._marks)
        self.discard_button = self.add_button(say("Stop and discard"))
        self.discard_button.clicked.connect(self.stop_and_discard)
        self.keep_button = self.add_button(say("Stop and save"))
        self.keep_button.clicked.connect(self.stop_and_keep)
        self.start_button = self.add_button(say("Start recording"), main=True)
        self.start_button.clicked.connect(self.start)
        self._figures = Announcer(self.machine, READ_OUT_EVERY_SECONDS)
        self._marks_told = 0
        self._ticker = QTimer(self)
        self._ticker.setInterval(REFRESH_MILLISECONDS)
        self._ticker.timeout.connect(self._show_live)

    @property
    def running(self) -> bool:
        """Whether a recording is being made."""
        return self._errand is not None

    @property
    def marks_text(self) -> str:
        """The marks that have fallen so far, in words."""
        return self._marks.text()

    def begin(self, job: Job) -> None:
        """Get ready to record a boot of a job."""
        if self.running:
            return
        self._job = job
        abilities = pc_of(job).abilities
        self._settings.setVisible(abilities.seconds is None)
        self.machine.clear()
        self._marks_told = 0
        self._progress.setValue(0)
        self._state.setText("")
        self._marks.setText("")
        self.refuse(None)
        self.retitle(*record_title(abilities))
        self.start_button.setText(start_button(abilities))
        self.start_button.setEnabled(abilities.record is not RecordHow.NOT_HERE)
        self._show_buttons()
        self.start_button.setFocus()

    def start(self) -> None:
        """Start the recorder."""
        job = self._job
        if job is None or self.running:
            return
        try:
            path = new_recording(self._desk.workshop.place)
        except Trouble as trouble:
            self.refuse(trouble)
            return
        self._keep = True
        self.refuse(None)
        seconds, number, ledger = float(self.seconds.value()), job.number, self._desk.ledger
        live = self._live = LiveBoot(pc_of(job).abilities.seconds or seconds)

        def work(errand: Errand) -> tuple[Pc, Trouble | None]:
            pc = pc_to_record(ledger, number)
            return pc, record(pc, path, seconds, errand.tell, lambda: errand.going_on)

        def done(outcome: tuple[Pc, Trouble | None]) -> None:
            self._recorded(number, path, *outcome)

        self._errand = self._desk.executor.run(work, done, self._failed, live.take)
        self._ticker.start()
        self._show_buttons()
        self.running_changed.emit()

    def _recorded(self, number: int, path: Path, pc: Pc, early: Trouble | None) -> None:
        self._ended()
        if not self._keep:
            path.unlink(missing_ok=True)
            self._state.setText(say("Discarded; nothing was put into the book."))
            return

        def done(imported: Imported) -> None:
            self._desk.door.say(kept(imported.remarks, early), bad=early is not None)
            self._desk.stand_at_newest()
            self.closed.emit()
            self.in_the_book.emit()

        which = pc.which
        self._desk.do(lambda ledger: take_over(ledger, number, path, which), done)

    def _failed(self, error: Exception) -> None:
        self._ended()
        if not isinstance(error, Trouble):
            raise error
        self.refuse(error)

    def stop_and_keep(self) -> None:
        """End the recording whole, and take it into the book."""
        self._stop(keep=True)

    def stop_and_discard(self) -> None:
        """End the recording and forget it."""
        self._stop(keep=False)

    def _stop(self, keep: bool) -> None:
        self._keep = keep
        if self._errand is not None:
            self._errand.stop()

    def _ended(self) -> None:
        self._errand = None
        self._ticker.stop()
        self._show_live()
        self._show_buttons()
        self.running_changed.emit()

    def _show_live(self) -> None:
        live = self._live
        self.machine.show_live(live)
        self._progress.setValue(round(live.done_share * 1000))
        if self.running:
            self._state.setText(progress(live))
        self._marks.setText(marks_so_far(live.marks))
        if len(live.marks) > self._marks_told:
            announce(self._marks, marks_so_far(live.marks[self._marks_told :]))
            self._marks_told = len(live.marks)
        elif self.running:
            self._figures.tell(strips_in_words(live.strips))

    def _show_buttons(self) -> None:
        self.start_button.setVisible(not self.running)
        self.keep_button.setVisible(self.running)
        self.discard_button.setVisible(self.running)
        self.seconds.setEnabled(not self.running)
