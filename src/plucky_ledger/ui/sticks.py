"""Notices a stick with recordings, or what came into the folder for them, and takes them in."""

from collections.abc import Sequence
from pathlib import Path

from PySide6.QtCore import QTimer, Signal
from PySide6.QtWidgets import QWidget

from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.dialogs import ask_for_folder
from plucky_ledger.usecases.jobs.preferences import read_preferences
from plucky_ledger.usecases.jobs.workplace import home_folder
from plucky_ledger.usecases.recording.sticks import (
    Known,
    Opened,
    PcOnStick,
    TakenIn,
    look,
    look_at,
    mounted_below,
    stick_folders,
    take_in_from,
)
from plucky_ledger.wording.language import say
from plucky_ledger.wording.sticks import nothing_new, on_the_stick, taken_in

LOOK_AGAIN_MILLISECONDS = 4_000
KEY = "Ctrl+Shift+K"


class Sticks(QTimer):
    """Looks now and then, beside everything else: a stick may be slow, or be pulled. The demo is
    left alone.

    Signals:
        found(): what is new is another than before.
    """

    found = Signal()

    def __init__(self, desk: Desk, window: QWidget) -> None:
        super().__init__(window)
        self._desk, self._window = desk, window
        self._known, self._files = Known(), tuple[Path, ...]()
        self.pcs: tuple[PcOnStick, ...] = ()
        self.setInterval(LOOK_AGAIN_MILLISECONDS)
        self.timeout.connect(self.look)
        if not desk.is_demo:
            self.start()

    def look(self) -> None:
        """Look once more; what is new is said once."""
        ledger, known, files = self._desk.ledger, self._known, self._files

        def work() -> tuple[PcOnStick, ...]:
            new = look(ledger, stick_folders(read_preferences().drop_folder), known)
            return (*new, *look_at(ledger, files).pcs)

        self._desk.executor.ask_the_pc("sticks", work, self._take)

    def _take(self, pcs: tuple[PcOnStick, ...]) -> None:
        if pcs != self.pcs:
            self.pcs = pcs
            if pcs and self._desk.writable:
                self._desk.door.say(on_the_stick(pcs, KEY))
            self.found.emit()

    def open(self, files: Sequence[Path]) -> None:
        """Recordings that were opened outside: the job that has them, or whose they would be."""
        ledger, self._files = self._desk.ledger, tuple(files)
        if files:
            self._desk.executor.ask("opened", lambda: look_at(ledger, files), self._opened)

    def _opened(self, found: Opened) -> None:
        if found.job is not None:
            self._desk.open_job(found.job)
        self._take((*self.pcs, *found.pcs))

    def take_in(self) -> None:
        """All that is new, into the books of their PCs."""
        pcs = self.pcs
        if not pcs:
            self._desk.door.say(nothing_new())
            return
        self._desk.do(lambda ledger: take_in_from(ledger, pcs), self._taken)

    def _taken(self, outcome: list[TakenIn]) -> None:
        self.pcs = self._files = ()
        self._desk.door.say(taken_in(outcome))
        self._desk.read_shelf()
        jobs = [one.job for one in outcome if one.boots]
        if len(jobs) == 1:
            self._desk.open_job(jobs[0])

    def ask_and_write(self) -> None:
        """Ask for the folder of a stick, and write the recorder onto it."""
        start = next((place for place in mounted_below() if place.is_dir()), home_folder())
        ask_for_folder(self._window, say("Write a stick"), start, self.write)

    def write(self, folder: Path) -> None:
        """Write the recorder into a folder."""
        self._desk.executor.run(
            lambda _errand: _written(folder),
            self._desk.door.say,
            self._desk.door.trouble,
        )


def _written(folder: Path) -> str:
    # Once somebody writes one.
    from plucky_ledger.usecases.recording.stick import prepare_stick
    from plucky_ledger.wording.stick import guide, words_of_the_stick, written

    return written(prepare_stick(folder, words_of_the_stick, guide))
