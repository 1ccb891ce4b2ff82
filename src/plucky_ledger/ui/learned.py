"""What was learned of programs: handed on as a file, and taken in from other workshops."""

from pathlib import Path

from PySide6.QtWidgets import QWidget

from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.dialogs import ask_what_to_open, ask_where_to_save
from plucky_ledger.usecases.jobs.workplace import home_folder
from plucky_ledger.wording.language import say


class Learned:
    """Writes such a file, and takes such files in. What that takes is loaded when it is done."""

    def __init__(self, desk: Desk, window: QWidget) -> None:
        self._desk, self._window = desk, window

    def ask_and_hand_on(self) -> None:
        """Choose where it goes."""
        title, kinds = say("Hand on what was learned"), say("What was learned (*.json)")
        start = home_folder() / "learned.json"
        ask_where_to_save(self._window, title, start, kinds, self.hand_on)

    def hand_on(self, path: Path) -> None:
        """Write what this workshop learned there."""
        from plucky_ledger.usecases.reading.learned import hand_on
        from plucky_ledger.wording.learned import handed_on

        ledger = self._desk.ledger
        self._desk.executor.ask(
            f"hand on {path}",
            lambda: hand_on(ledger, path),
            lambda programs: self._desk.door.say(handed_on(programs, str(path))),
        )

    def ask_and_take_in(self) -> None:
        """Choose files of other workshops."""
        title, kinds = say("Take in what others learned"), say("What was learned (*.json)")

        def take(paths: list[Path]) -> None:
            for path in paths:
                self.take_in(path)

        ask_what_to_open(self._window, title, home_folder(), kinds, take)

    def take_in(self, path: Path) -> None:
        """Take one in: it is shown beside our own."""
        from plucky_ledger.usecases.reading.learned import LearnedFile, take_in_learned
        from plucky_ledger.wording.learned import taken_in

        def done(file: LearnedFile) -> None:
            self._desk.job_changed.emit()
            self._desk.door.say(taken_in(file))

        self._desk.do(lambda ledger: take_in_learned(ledger, path), done)
