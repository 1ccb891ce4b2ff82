"""Starting the window."""

import gc
import logging
import os
import sys
from collections.abc import Callable, Sequence
from importlib import import_module
from pathlib import Path
from types import TracebackType

from PySide6.QtCore import QLibraryInfo, QLocale, Qt, QTimer, QTranslator
from PySide6.QtWidgets import QApplication, QProgressBar, QPushButton, QVBoxLayout, QWidget

from plucky_ledger.core.shelf.spine import Spine
from plucky_ledger.core.values.trouble import Trouble, TroubleCode
from plucky_ledger.ui.accessible.faces import use_faces
from plucky_ledger.ui.benches import Benches
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.executor import Errand, Executor
from plucky_ledger.ui.one_window import OneWindow
from plucky_ledger.ui.password import PasswordDialog
from plucky_ledger.ui.qt_messages import QtMessages
from plucky_ledger.ui.recent_ledgers import remember_ledger
from plucky_ledger.ui.remembered import keep, last_job, put_back
from plucky_ledger.ui.signals import ClosesOnSignals
from plucky_ledger.ui.text import Text
from plucky_ledger.ui.theme import dress, dressed_afterwards
from plucky_ledger.ui.window import Window
from plucky_ledger.usecases.jobs.logs import start_logging
from plucky_ledger.usecases.jobs.opening import Address
from plucky_ledger.usecases.jobs.workplace import Workplace
from plucky_ledger.usecases.jobs.workshop import Workshop
from plucky_ledger.usecases.recording.arming import left_over, waiting_jobs
from plucky_ledger.wording import recording
from plucky_ledger.wording.figures import load_dates
from plucky_ledger.wording.language import current_language, say
from plucky_ledger.wording.trouble import trouble_in_words

log = logging.getLogger(__name__)
CLOSE_WITHIN_SECONDS = 1.5
UP_WITHIN_MILLISECONDS = 5_000
LATER = (
    "lenses.entries",
    "lenses.load",
    "lenses.verdict",
    "lenses.why",
    "lenses.statement",
    "panels.recording",
    "panels.arming",
    "panels.night",
    "panels.take_in",
    "panels.write_down",
    "panels.manual",
    "panels.posting",
)
"""Modules that are loaded once the window is up, off its thread."""
WINDOW_KEEPS = 50_000
"""Objects kept before garbage is looked for, once the window is up."""


def run(address: Address, with_demo: bool, files: Sequence[Path] = ()) -> int:
    """Open the window on a ledger, and recordings and jobs in it; returns the exit status."""
    if not _has_display():
        sentence = say(
            "Plucky Ledger found no display. Start it in a desktop session, or use its commands: "
            "plucky-ledger --help."
        )
        sys.stderr.write(f"{sentence}\n")
        return 1
    path = address.local
    start_logging(Workplace.beside(path).logs)
    messages = QtMessages()
    app = QApplication(sys.argv[:1])
    use_faces()
    messages.has_display = True
    app.setApplicationName("Plucky Ledger")
    app.setDesktopFileName("plucky-ledger")
    speak_qt(app)
    dress(app)
    one = OneWindow(path)
    if one.handed_over(files):
        return 0
    if with_demo and not path.exists() and not DemoPage(path).make():
        return 1
    try:
        window = _with_password(address, lambda: open_window(address, last_job(path)))
    except Trouble as trouble:
        sentence = trouble_in_words(trouble)
        log.warning("not opened: %s", trouble)
        sys.stderr.write(f"{sentence}\n")
        return _show_fault(app, sentence)
    put_back(window)
    remember_ledger(address)
    app.aboutToQuit.connect(lambda: keep(window))
    window.show()
    one.window = window
    ClosesOnSignals(window)
    make_ready(window)
    window.open_files(files)
    QTimer.singleShot(UP_WITHIN_MILLISECONDS, lambda: gc.set_threshold(WINDOW_KEEPS))
    return app.exec()


def _with_password(address: Address, work: Callable[[], Window]) -> Window:
    """The password is asked for as often as the server refuses one. Raises Trouble."""
    while True:
        try:
            return work()
        except Trouble as trouble:
            wanted = trouble.code in {
                TroubleCode.LEDGER_PASSWORD_WANTED,
                TroubleCode.LEDGER_SERVER_REFUSED,
            }
            if not wanted or not PasswordDialog(address, trouble_in_words(trouble)).exec():
                raise


def open_window(address: Address | Path, last_job: int | None = None) -> Window:
    """A window on a ledger, with the one job opened that is being worked on, or the
    one that was open last.
    """
    desk = Desk(Workshop.open(address))
    desk.executor.ask("dates", load_dates, lambda _none: None)
    _open_job_in_work(desk, last_job)
    desk.bring_figures_up_to_date()
    with dressed_afterwards():
        window = Window(desk)
    Benches(desk)
    _catch_bugs(desk)
    if desk.ledger.read_only_because is not None:
        desk.door.say(trouble_in_words(desk.ledger.read_only_because))
    place = desk.workshop.place
    desk.executor.ask(
        "left over",
        lambda: recording.left_over(left_over(place), str(place.recordings)),
        desk.door.say,
    )
    return window


def speak_qt(app: QApplication) -> None:
    """Have the toolkit's own words, such as those of its dialogs, in the language in use."""
    translator = QTranslator(app)
    folder = QLibraryInfo.path(QLibraryInfo.LibraryPath.TranslationsPath)
    if translator.load(f"qtbase_{current_language()}", folder):
        app.installTranslator(translator)
    app.setLayoutDirection(QLocale(current_language()).textDirection())


def make_ready(window: Window) -> None:
    """Load and make what is out of sight while nobody waits, so that nobody waits for it later."""

    def load() -> None:
        for name in LATER:
            import_module(f"plucky_ledger.ui.{name}")

    window.desk.executor.work_out(
        "rest", load, lambda _none: window.right.make_the_rest(), at_leisure=True
    )


def _open_job_in_work(desk: Desk, last_job: int | None) -> None:
    """The job that armed recordings wait for; else the one that was open last, or the only one
    there is, or that is in work.

    Both are asked for at once, so that the job is there before the shelf is painted.
    """
    known: dict[str, list[int]] = {}

    def take(name: str, numbers: list[int]) -> None:
        known[name] = numbers
        if {"waiting", "in work"} <= known.keys() and not desk.chosen:
            there = {spine.job for spine in desk.shelf}
            recorded = [number for number in known["waiting"] if number in there]
            last = [number for number in (last_job,) if number in there]
            chosen = recorded[:1] or last or known["in work"]
            if len(chosen) == 1:
                desk.open_job(chosen[0])

    place = desk.workshop.place
    desk.executor.ask("waiting", lambda: waiting_jobs(place), lambda jobs: take("waiting", jobs))
    desk.shelf_changed.connect(
        lambda: take("in work", _in_work(desk.shelf)),
        Qt.ConnectionType.SingleShotConnection,
    )


def _in_work(shelf: Sequence[Spine]) -> list[int]:
    return [spine.job for spine in shelf if len(shelf) == 1 or spine.in_work]


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
    text = Text(sentence)
    text.setWordWrap(True)
    close = QPushButton(say("Close"))
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
        self._text = Text(say("Recording the boots of the stand-in PC for the demo…"))
        stop = QPushButton(say("Stop"))
        layout = QVBoxLayout(self)
        for widget in (self._text, self._bar, stop):
            layout.addWidget(widget)
        self.resize(460, 140)
        self._executor = Executor(self._failed)
        self._errand: Errand | None = None
        stop.clicked.connect(self._stop)

    def make(self) -> bool:
        """Write the demo ledger; False when it was stopped or could not be written."""
        self.show()
        QTimer.singleShot(0, self._begin)
        QApplication.exec()
        self._executor.close(CLOSE_WITHIN_SECONDS)
        self.close()
        return self._made

    def _begin(self) -> None:
        def work(errand: Errand) -> bool:
            from plucky_ledger.usecases.jobs.demo import write_demo

            def progress(done: int, total: int) -> bool:
                errand.tell((done, total))
                return errand.going_on

            return write_demo(self._path, progress)

        self._errand = self._executor.run(work, self._done, report=self._told)

    def _told(self, progress: tuple[int, int]) -> None:
        self._bar.setMaximum(progress[1])
        self._bar.setValue(progress[0])

    def _done(self, made: bool) -> None:
        self._made = made
        QApplication.quit()

    def _failed(self, error: Exception) -> None:
        if not isinstance(error, Trouble):
            QApplication.quit()
            raise error
        self._text.setText(trouble_in_words(error))
        self._text.setWordWrap(True)

    def _stop(self) -> None:
        if self._errand is not None:
            self._errand.stop()
        QApplication.quit()


def _catch_bugs(desk: Desk) -> None:
    """Uncaught errors are ours: written to the log, and said without taking the window down."""
    log_folder = desk.workshop.place.logs

    def hook(
        kind: type[BaseException], error: BaseException, traceback: TracebackType | None
    ) -> None:
        log.error("uncaught", exc_info=(kind, error, traceback))
        sys.__excepthook__(kind, error, traceback)
        if desk.closed:
            return  # nobody is there to be told
        desk.door.say(
            say(
                "Plucky Ledger hit an internal error ({kind}). Your data is saved. Details: "
                "{folder}",
                kind=kind.__name__,
                folder=str(log_folder),
            ),
            bad=True,
        )

    sys.excepthook = hook
