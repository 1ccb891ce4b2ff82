"""Files that come in and go out, chosen in the desktop's own dialog."""

from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QWidget

from plucky_ledger.ui.desk import Desk
from plucky_ledger.usecases.jobs.opening import save_repaired
from plucky_ledger.usecases.jobs.workplace import home_folder
from plucky_ledger.usecases.recording.arming import left_over
from plucky_ledger.usecases.recording.boots import Imported, import_recording
from plucky_ledger.wording.language import say
from plucky_ledger.wording.reasons import in_one_line


class Files:
    """Recordings to import, and the repaired copy of a damaged ledger."""

    def __init__(self, desk: Desk, window: QWidget) -> None:
        self._desk = desk
        self._window = window

    def ask_for_recordings(self) -> None:
        """Choose recording files to import."""
        place = self._desk.workshop.place
        start = place.recordings if left_over(place) else home_folder()
        kinds = say("Recordings (*.jsonl *.jsonl.gz *.jsonl.zst)")
        chosen, _ = QFileDialog.getOpenFileNames(
            self._window, say("Import recordings"), str(start), kinds
        )
        self.import_recordings([Path(name) for name in chosen])

    def import_recordings(self, paths: list[Path]) -> None:
        """Import recording files into the open job."""
        job = self._desk.job
        if job is None:
            return
        for path in paths:
            self._import(job.number, path)

    def _import(self, number: int, path: Path) -> None:
        self._desk.do(lambda ledger: import_recording(ledger, number, path), self._imported)

    def _imported(self, imported: Imported) -> None:
        self._desk.door.say(in_one_line(imported.remarks))

    def ask_for_copy(self) -> None:
        """Choose where a repaired copy of a damaged ledger goes."""
        start = home_folder() / "repaired.ledger"
        chosen, _ = QFileDialog.getSaveFileName(
            self._window, say("Save a repaired copy"), str(start), say("Ledgers (*.ledger)")
        )
        if chosen:
            self.save_repaired(Path(chosen))

    def save_repaired(self, path: Path) -> None:
        """Save what could be read of a damaged ledger as one that can be written in."""
        ledger = self._desk.ledger
        sentence = say("The repaired copy is {path}. Open it to go on.", path=str(path))
        self._desk.executor.ask(
            "repair", lambda: save_repaired(ledger, path), lambda _: self._desk.door.say(sentence)
        )
