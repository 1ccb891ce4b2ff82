"""Files that come in and go out, chosen in the desktop's own dialog."""

import sys
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QMimeData, QProcess
from PySide6.QtWidgets import QWidget

from plucky_ledger.core.values.endings import JOB_FILE
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.dialogs import ask_what_to_open, ask_where_to_save
from plucky_ledger.usecases.jobs.opening import Address, address_of, save_repaired
from plucky_ledger.usecases.jobs.workplace import home_folder
from plucky_ledger.usecases.recording.arming import left_over
from plucky_ledger.usecases.recording.boots import Imported, import_recording
from plucky_ledger.wording.language import say
from plucky_ledger.wording.reasons import in_one_line

RECORDINGS = (".jsonl", ".jsonl.gz", ".jsonl.zst")
LEDGER = ".ledger"


def dropped(data: QMimeData) -> list[Path]:
    """The files in what is dragged that the window takes."""
    paths = [Path(url.toLocalFile()) for url in data.urls() if url.isLocalFile()]
    return [path for path in paths if path.name.endswith((*RECORDINGS, LEDGER, JOB_FILE))]


class Files:
    """Recordings to import, and the repaired copy of a damaged ledger."""

    def __init__(self, desk: Desk, window: QWidget, show_table: Callable[[Path], None]) -> None:
        self._desk = desk
        self._window = window
        self._show_table = show_table

    def ask_for_recordings(self) -> None:
        """Choose recording files to import."""
        place = self._desk.workshop.place
        start = place.recordings if left_over(place) else home_folder()
        kinds = say("Recordings (*.jsonl *.jsonl.gz *.jsonl.zst)")
        title = say("Import recordings")
        ask_what_to_open(self._window, title, start, kinds, self.import_recordings)

    def ask_for_table(self) -> None:
        """Choose a table of figures."""
        kinds, title = say("Tables (*.csv *.tsv *.txt)"), say("Import figures from a table")

        def take(chosen: list[Path]) -> None:
            for path in chosen[:1]:
                self._show_table(path)

        ask_what_to_open(self._window, title, home_folder(), kinds, take)

    def import_recordings(self, paths: list[Path]) -> None:
        """Import recording files into the open job."""
        job = self._desk.job
        if job is None:
            return
        said: list[str] = []
        for path in paths:
            self._import(job.number, path, said)

    def _import(self, number: int, path: Path, said: list[str]) -> None:
        """One of several: what became of those before it stays said."""

        def imported(done: Imported) -> None:
            said.append(in_one_line(done.remarks))
            self._desk.door.say(" ".join(dict.fromkeys(said)))

        self._desk.do(lambda ledger: import_recording(ledger, number, path), imported)

    def ask_for_ledger(self) -> None:
        """Choose another ledger."""
        start, kinds = self._desk.ledger.path.parent, say("Ledgers (*.ledger)")

        def take(chosen: list[Path]) -> None:
            for path in chosen:
                self.open_ledger(address_of(path))

        ask_what_to_open(self._window, say("Open a ledger"), start, kinds, take)

    def open_ledger(self, address: Address) -> None:
        """Another ledger in a window of its own: this one stays open."""
        command = ["-m", "plucky_ledger", "--ledger", address.text]
        begun, _ = QProcess.startDetached(sys.executable, command)
        if begun:
            self._desk.door.say(say("{name} opens in a window of its own.", name=address.name))

    def take(self, paths: list[Path]) -> None:
        """Files that were dropped on the window: recordings into the open job, ledgers opened."""
        for path in paths:
            if path.name.endswith(LEDGER):
                self.open_ledger(address_of(path))
        recordings = [path for path in paths if path.name.endswith(RECORDINGS)]
        if recordings and self._desk.job is None:
            self._desk.door.say(say("Open the job that these recordings belong to first."))
        self.import_recordings(recordings)

    def ask_for_copy(self) -> None:
        """Choose where a repaired copy of a damaged ledger goes."""
        start = home_folder() / "repaired.ledger"
        title, kinds = say("Save a repaired copy"), say("Ledgers (*.ledger)")
        ask_where_to_save(self._window, title, start, kinds, self.save_repaired)

    def save_repaired(self, path: Path) -> None:
        """Save what could be read of a damaged ledger as one that can be written in."""
        ledger = self._desk.ledger
        sentence = say("The repaired copy is {path}. Open it to go on.", path=str(path))
        self._desk.executor.ask(
            "repair", lambda: save_repaired(ledger, path), lambda _: self._desk.door.say(sentence)
        )
