"""The server of a workshop's ledger goes: the window goes on with a copy, and brings it home."""

from dataclasses import replace
from pathlib import Path

from PySide6.QtCore import QObject, QTimer

from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.job_files import JobFiles
from plucky_ledger.usecases.jobs.meanwhile import Meanwhile, is_back
from plucky_ledger.usecases.jobs.opening import Ledger
from plucky_ledger.wording.language import say

COPY_AFTER_MILLISECONDS = 1500
LOOK_AGAIN_MILLISECONDS = 2000


class GoesOnHere(QObject):
    """Keeps a copy of the job on the desk, changes over to it and back. Does nothing for a file."""

    def __init__(self, desk: Desk, job_files: JobFiles) -> None:
        super().__init__(desk)
        self._desk, self._job_files = desk, job_files
        self._server = desk.ledger
        self._kept = Meanwhile.of(desk.ledger.address)
        self._left: set[Path] = set()
        """Files that are still to be brought home."""
        self._copying, self._looking = QTimer(self), QTimer(self)
        self._copying.setSingleShot(True)
        self._copying.setInterval(COPY_AFTER_MILLISECONDS)
        self._copying.timeout.connect(self._copy)
        self._looking.setInterval(LOOK_AGAIN_MILLISECONDS)
        self._looking.timeout.connect(self._look)
        if self._kept is not None and desk.writable:
            desk.job_changed.connect(self._copying.start)
            desk.when_gone = self._gone
            self._bring_home()

    @property
    def is_here(self) -> bool:
        """Whether the window works on the copy."""
        return self._desk.ledger is not self._server

    def _copy(self) -> None:
        job, kept = self._desk.job, self._kept
        if job is None or kept is None or self.is_here or self._desk.held_because is not None:
            return
        number, server = job.number, self._server
        self._desk.executor.work_out(
            "meanwhile",
            lambda: kept.keep(server, number),
            lambda _is_kept: None,
            at_leisure=True,
            failed=lambda _error: None,  # whoever needs the server next will say so
        )

    def _gone(self) -> None:
        """Go on with the copy, where there is one of the job on the desk."""
        job, kept = self._desk.job, self._kept
        if kept is None or self.is_here or self._looking.isActive():
            return
        self._looking.start()
        if job is None:
            self._desk.door.say(say("The server cannot be reached. What was read is shown."))
            return
        number = job.number
        self._desk.executor.ask(
            "go on here",
            lambda: kept.open() if kept.has(number) else None,
            lambda copy: self._change_over(copy, number),
        )

    def _change_over(self, copy: Ledger | None, number: int) -> None:
        if copy is None:
            sentence = say(
                "The server cannot be reached, and there is no copy of this job here yet. What was "
                "read is shown; nothing more can be saved until it is back."
            )
        else:
            self._work_on(copy)
            self._desk.open_job(number)
            sentence = say(
                "The server cannot be reached, and the last step was not saved. What you do in "
                "this job from now on is kept here and written there when it is back."
            )
        self._desk.door.say(sentence, bad=True)

    def _work_on(self, ledger: Ledger) -> None:
        ledger.may_write = self._desk.executor.may_write
        self._desk.workshop = replace(self._desk.workshop, ledger=ledger)

    def _look(self) -> None:
        server = self._server
        self._desk.executor.ask_the_pc("server", lambda: is_back(server), self._looked)

    def _looked(self, is_there: bool) -> None:
        if not is_there:
            return
        self._looking.stop()
        copy, job = self._desk.ledger, self._desk.job
        if self.is_here:
            self._work_on(self._server)
            copy.close()
        if job is not None:
            self._desk.open_job(job.number)
        self._desk.read_shelf()
        self._desk.door.say(say("The server is back."))
        self._bring_home()

    def _bring_home(self) -> None:
        kept = self._kept
        if kept is not None:
            self._desk.executor.ask("bring home", kept.to_bring_home, self._bring)

    def _bring(self, files: tuple[Path, ...]) -> None:
        if files:
            self._left = set(files)
            self._job_files.take(list(files), self._is_home)

    def _is_home(self, file: Path) -> None:
        """One is written; once all are, the copies are forgotten."""
        self._left.discard(file)
        if not self._left and self._kept is not None:
            self._kept.forget()
            self._copying.start()

    def close(self) -> None:
        """Let go of the server, where the copy is worked on."""
        if self.is_here:
            self._server.close()
