"""The bench panel: a boot while it is being recorded, of this PC or the stand-in."""

import sys
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QProcess, QTimer, Signal
from PySide6.QtWidgets import QHBoxLayout, QLabel, QProgressBar, QSpinBox, QVBoxLayout, QWidget

from plucky_ledger.core.book.job import Job
from plucky_ledger.pages.live import LiveBoot
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.panels.panel import Panel
from plucky_ledger.ui.worker import Task, Workers
from plucky_ledger.usecases.boots import import_recording
from plucky_ledger.usecases.demo import RECORD_SECONDS, is_stand_in, record_stand_in
from plucky_ledger.usecases.jobs import Refused
from plucky_ledger.wording.figures import now

if TYPE_CHECKING:
    from plucky_ledger.ui.panels.live_curves import LiveCurves

STAND_IN_SPEED = 20.0
"""How much faster than the wall clock the stand-in PC runs in the window."""
DEFAULT_SECONDS = 60
RECORDER_MODULE = "plucky_ledger"


class RecordingPanel(Panel):
    """Starts the recorder, shows what it sends, and takes the recording into the book.

    It may be left while recording, which goes on and is said in the head of the window.

    Signals:
        running_changed(): recording began or ended.
    """

    running_changed = Signal()

    def __init__(self, desk: Desk) -> None:
        super().__init__("Record a boot")
        self._desk = desk
        self._job: Job | None = None
        self._path = Path()
        self._live = LiveBoot(DEFAULT_SECONDS)
        self._process: QProcess | None = None
        self._task: Task | None = None
        self._workers = Workers(1)
        self._keep = True
        self.curves: LiveCurves | None = None
        self._curves_place = QVBoxLayout()
        self._state = QLabel()
        self._state.setWordWrap(True)
        self._marks = QLabel()
        self._marks.setWordWrap(True)
        self._progress = QProgressBar()
        self._progress.setTextVisible(False)
        self._progress.setRange(0, 1000)
        self.seconds = QSpinBox()
        self.seconds.setRange(1, 3600)
        self.seconds.setValue(DEFAULT_SECONDS)
        self.seconds.setSuffix(" s")
        self.seconds.setAccessibleName("Seconds to record")
        self._settings = QWidget()
        row = QHBoxLayout(self._settings)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(QLabel("Record this PC for"))
        row.addWidget(self.seconds)
        row.addStretch(1)
        self.body.addWidget(self._settings)
        self.body.addLayout(self._curves_place, 1)
        self.body.addWidget(self._progress)
        self.body.addWidget(self._state)
        self.body.addWidget(self._marks)
        self.discard_button = self.add_button("Stop and discard")
        self.discard_button.clicked.connect(self.stop_and_discard)
        self.keep_button = self.add_button("Stop and keep")
        self.keep_button.clicked.connect(self.stop_and_keep)
        self.start_button = self.add_button("Start recording", main=True)
        self.start_button.clicked.connect(self.start)
        self._ticker = QTimer(self)
        self._ticker.setInterval(250)
        self._ticker.timeout.connect(self._show_live)

    @property
    def running(self) -> bool:
        """Whether a recording is being made."""
        return self._process is not None or self._task is not None

    def _ready_curves(self) -> "LiveCurves":
        """The curves; the plotting package is loaded when they are first wanted, not at start."""
        if self.curves is None:
            from plucky_ledger.ui.panels.live_curves import LiveCurves

            self.curves = LiveCurves()
            self._curves_place.addWidget(self.curves)
        return self.curves

    @property
    def marks_text(self) -> str:
        """The marks that have fallen so far, in words."""
        return self._marks.text()

    def begin(self, job: Job) -> None:
        """Get ready to record a boot of a job."""
        if self.running:
            return
        self._job = job
        stand_in = is_stand_in(job)
        self._settings.setVisible(not stand_in)
        self._ready_curves().clear_curves()
        self._progress.setValue(0)
        self._state.setText("")
        self._marks.setText("")
        self.refuse("")
        if stand_in:
            self.retitle(
                "Restart the stand-in PC and record it",
                "This job's PC is simulated. It is restarted in the state the book says it is in; "
                f"its time goes by {STAND_IN_SPEED:.0f} times as fast.",
            )
            self.start_button.setText("Restart and record")
        else:
            self.retitle(
                "Record this PC",
                "Curves from now on. What the system knows of its start is filled in at the end; "
                "what it does not know stays empty.",
            )
            self.start_button.setText("Start recording")
        self._show_buttons()
        self.start_button.setFocus()

    def start(self) -> None:
        """Start the recorder."""
        job = self._job
        if job is None or self.running:
            return
        folder = self._desk.recordings_folder
        try:
            folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        except OSError as error:
            self.refuse(f"No recording can be written to {folder}: {error.strerror}.")
            return
        self._path = folder / f"boot-{now():%Y%m%d-%H%M%S-%f}.jsonl.gz"
        self._keep = True
        self.refuse("")
        if is_stand_in(job):
            self._live = LiveBoot(RECORD_SECONDS)
            self._start_stand_in(job)
        else:
            self._live = LiveBoot(self.seconds.value())
            self._start_recorder()
        self._ticker.start()
        self._show_buttons()
        self.running_changed.emit()

    def _start_recorder(self) -> None:
        """The recorder is a program of its own: what it costs is its own, and it outlives us."""
        process = self._process = QProcess(self)
        process.readyReadStandardOutput.connect(self._heard)
        process.finished.connect(self._recorder_ended)
        process.errorOccurred.connect(self._recorder_failed)
        process.start(
            sys.executable,
            ["-m", RECORDER_MODULE, "record", "--for", str(self.seconds.value()),
             "--out", str(self._path), "--echo"],
        )  # fmt: skip

    def _heard(self) -> None:
        if self._process is not None:
            self._live.feed(bytes(self._process.readAllStandardOutput().data()))

    def _recorder_failed(self, error: QProcess.ProcessError) -> None:
        if error is QProcess.ProcessError.FailedToStart and self._process is not None:
            self._process = None
            self._ended()
            self.refuse("The recorder could not be started. Nothing was recorded.")

    def _recorder_ended(self, status: int, _how: object) -> None:
        process, self._process = self._process, None
        if process is None:
            return
        self._live.feed(bytes(process.readAllStandardOutput().data()))
        said = bytes(process.readAllStandardError().data()).decode("utf-8", "replace").strip()
        process.deleteLater()
        self._ended()
        if status != 0 and said:
            self.refuse(said.splitlines()[-1])
        if self._keep:
            self._take_over()
        else:
            self._discard()

    def _start_stand_in(self, job: Job) -> None:
        path, live = self._path, self._live

        def work(task: Task) -> None:
            record_stand_in(
                job, path, task.tell, lambda seconds: task.wait(seconds / STAND_IN_SPEED)
            )

        self._task = self._workers.start(
            work, self._stand_in_ended, self._stand_in_failed, live.take
        )

    def _stand_in_ended(self, _none: Any) -> None:
        self._task = None
        self._ended()
        if self._keep:
            self._take_over()
        else:
            self._discard()

    def _stand_in_failed(self, error: Exception) -> None:
        self._task = None
        self._ended()
        self.refuse(str(error))

    def stop_and_keep(self) -> None:
        """End the recording whole, and take it into the book."""
        self._stop(keep=True)

    def stop_and_discard(self) -> None:
        """End the recording and forget it."""
        self._stop(keep=False)

    def _stop(self, keep: bool) -> None:
        self._keep = keep
        if self._process is not None:
            self._process.terminate()
        if self._task is not None:
            self._task.stop()

    def shut_down(self) -> None:
        """The window closes: the recording so far is kept in its file."""
        process, self._process = self._process, None
        if process is not None:
            process.terminate()
            process.waitForFinished(3000)
        self._workers.finish()

    def _ended(self) -> None:
        self._ticker.stop()
        self._show_live()
        self._show_buttons()
        self.running_changed.emit()

    def _discard(self) -> None:
        self._path.unlink(missing_ok=True)
        self._state.setText("Discarded; nothing was put into the book.")

    def _take_over(self) -> None:
        job, path = self._job, self._path
        if job is None or not path.exists():
            return

        def done(imported: Any) -> None:
            path.unlink(missing_ok=True)
            self._desk.say(imported.told)
            self.closed.emit()

        self._desk.do(lambda ledger: import_recording(ledger, job, path), done)

    def _show_live(self) -> None:
        live = self._live
        self._ready_curves().show_live(live)
        self._progress.setValue(round(live.done_share * 1000))
        if self.running:
            self._state.setText(f"Recording: {live.since_start} since the PC started, {live.left}.")
        marks = " · ".join(f"{name} {at}" for name, at in live.marks)
        self._marks.setText(f"Marks: {marks}" if marks else "")

    def _show_buttons(self) -> None:
        self.start_button.setVisible(not self.running)
        self.keep_button.setVisible(self.running)
        self.discard_button.setVisible(self.running)
        self.seconds.setEnabled(not self.running)


def left_over(folder: Path) -> int:
    """How many recordings were never taken into the book, as after a crash."""
    try:
        return sum(1 for path in folder.iterdir() if path.name.endswith(".jsonl.gz"))
    except OSError:
        return 0


def import_and_tell(desk: Desk, job: Job, path: Path) -> None:
    """Take a recording file into the book, telling what became of it."""

    def step(ledger: Any) -> str:
        try:
            return import_recording(ledger, job, path).told
        except Refused as refusal:
            return str(refusal)

    desk.do(step, desk.say)
