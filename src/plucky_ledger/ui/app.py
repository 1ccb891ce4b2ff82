"""Starting the window."""

import logging
import os
import sys
from pathlib import Path
from types import TracebackType

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QApplication, QLabel, QProgressBar, QPushButton, QVBoxLayout, QWidget

from plucky_ledger.core.book.job import waits_for_something
from plucky_ledger.store.errors import LedgerFault
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.panels.recording import left_over
from plucky_ledger.ui.theme import dress
from plucky_ledger.ui.window import Window
from plucky_ledger.ui.worker import Task, Workers
from plucky_ledger.usecases import demo

NO_DISPLAY = (
    "Plucky Ledger found no display. Start it in a desktop session, or make pictures of it "
    "without one: make shots."
)


def run(path: Path, with_demo: bool) -> int:
    """Open the window on a ledger; returns the exit status."""
    if not _has_display():
        sys.stderr.write(NO_DISPLAY + "\n")
        return 1
    app = QApplication(sys.argv[:1])
    app.setApplicationName("Plucky Ledger")
    app.setDesktopFileName("plucky-ledger")
    dress(app)
    if with_demo and not path.exists() and not DemoPage(path).make():
        return 1
    try:
        window = open_window(path)
    except LedgerFault as fault:
        sys.stderr.write(f"{fault}\n")
        return _show_fault(app, str(fault))
    window.show()
    return app.exec()


def open_window(path: Path) -> Window:
    """A window on the ledger at ``path``, with the one job opened that is being worked on."""
    desk = Desk(Ledger(path))
    window = Window(desk)
    _catch_bugs(desk, path)
    desk.shelf_changed.connect(
        lambda: _open_job_in_work(desk), Qt.ConnectionType.SingleShotConnection
    )
    if desk.ledger.read_only_because:
        desk.say(desk.ledger.read_only_because)
    elif count := left_over(desk.recordings_folder):
        desk.say(
            f"{count} recordings in {desk.recordings_folder} never came into a book, as after a "
            "crash. Open their job and choose Record, Import recordings."
        )
    return window


def _open_job_in_work(desk: Desk) -> None:
    """The only job there is, or the only one with something pencilled or a restart due."""
    in_work = [job for job in desk.jobs if len(desk.jobs) == 1 or waits_for_something(job)]
    if len(in_work) == 1 and desk.job is None:
        desk.open_job(in_work[0].number)


def _has_display() -> bool:
    return bool(
        os.environ.get("DISPLAY")
        or os.environ.get("WAYLAND_DISPLAY")
        or os.environ.get("QT_QPA_PLATFORM") in {"offscreen", "minimal", "vnc"}
    )


def _show_fault(app: QApplication, sentence: str) -> int:
    """The ledger cannot be opened: say so in a window of its own."""
    page = QWidget()
    page.setWindowTitle("Plucky Ledger")
    text = QLabel(sentence)
    text.setWordWrap(True)
    close = QPushButton("Close")
    close.clicked.connect(app.quit)
    layout = QVBoxLayout(page)
    layout.addWidget(text)
    layout.addWidget(close)
    page.resize(520, 160)
    page.show()
    app.exec()
    return 1


class DemoPage(QWidget):
    """Shows how far the demo ledger is while it is recorded; it can be stopped."""

    def __init__(self, path: Path) -> None:
        super().__init__()
        self.setWindowTitle("Plucky Ledger")
        self._path = path
        self._made = False
        self._bar = QProgressBar()
        self._text = QLabel("Recording the boots of the stand-in PC for the demo…")
        stop = QPushButton("Stop")
        layout = QVBoxLayout(self)
        for widget in (self._text, self._bar, stop):
            layout.addWidget(widget)
        self.resize(460, 140)
        self._workers = Workers(1)
        self._task: Task | None = None
        stop.clicked.connect(self._stop)

    def make(self) -> bool:
        """Write the demo ledger; False when it was stopped or could not be written."""
        self.show()
        QTimer.singleShot(0, self._begin)
        QApplication.exec()
        self._workers.finish()
        self.close()
        return self._made

    def _begin(self) -> None:
        def work(task: Task) -> bool:
            def told(done: int, total: int) -> bool:
                task.tell((done, total))
                return not task.stopping

            return demo.write_demo(self._path, told)

        self._task = self._workers.start(work, self._done, self._failed, self._told)

    def _told(self, progress: tuple[int, int]) -> None:
        self._bar.setMaximum(progress[1])
        self._bar.setValue(progress[0])

    def _done(self, made: bool) -> None:
        self._made = made
        QApplication.quit()

    def _failed(self, error: Exception) -> None:
        self._text.setText(str(error))
        self._text.setWordWrap(True)

    def _stop(self) -> None:
        if self._task is not None:
            self._task.stop()
        QApplication.quit()


def _catch_bugs(desk: Desk, path: Path) -> None:
    """Uncaught errors are ours: written to a log, and said without taking the window down."""
    log = logging.getLogger("plucky_ledger")
    log_file = path.with_name("plucky-ledger.log")

    def hook(
        kind: type[BaseException], error: BaseException, traceback: TracebackType | None
    ) -> None:
        if not log.handlers:
            log.addHandler(logging.FileHandler(log_file, delay=True))
        log.error("uncaught", exc_info=(kind, error, traceback))
        sys.__excepthook__(kind, error, traceback)
        desk.say(
            f"Something went wrong inside Plucky Ledger ({kind.__name__}). What the book shows is "
            f"saved. The details are in {log_file}.",
            bad=True,
        )

    sys.excepthook = hook
