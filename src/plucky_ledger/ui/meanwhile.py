"""The server of a workshop's ledger goes: the window goes on with copies, and brings them home."""

from dataclasses import replace
from pathlib import Path

from PySide6.QtCore import QObject, QTimer

from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.job_files import JobFiles
from plucky_ledger.usecases.jobs.meanwhile import NOTHING, Home, Meanwhile, is_back, is_gone
from plucky_ledger.usecases.jobs.opening import Ledger
from plucky_ledger.wording.language import say, say_n

COPY_AFTER_MILLISECONDS = 1500
LOOK_AGAIN_MILLISECONDS = 2000
BRING_AGAIN_MILLISECONDS = 10_000
"""After another bench was writing in a job that is to be brought home."""


class GoesOnHere(QObject):
    """Keeps copies of the jobs that are open here, changes over to them and back; nothing where the
    ledger is a file.
    """

    def __init__(self, desk: Desk, job_files: JobFiles) -> None:
        super().__init__(desk)
        self._desk, self._job_files = desk, job_files
        self._server = desk.ledger
        self._kept = Meanwhile.of(desk.ledger.address)
        self._left: set[Path] = set()
        """Files that are still to be brought home."""
        self._was_gone = False
        """The server was, and what is shown is still from before."""
        self._why_not = ""
        """What was said of why nothing could be brought home."""
        self._copying, self._looking, self._bringing = QTimer(self), QTimer(self), QTimer(self)
        for timer, after in (
            (self._copying, COPY_AFTER_MILLISECONDS),
            (self._bringing, BRING_AGAIN_MILLISECONDS),
        ):
            timer.setSingleShot(True)
            timer.setInterval(after)
        self._copying.timeout.connect(self._copy)
        self._looking.setInterval(LOOK_AGAIN_MILLISECONDS)
        self._looking.timeout.connect(self._look)
        self._bringing.timeout.connect(self._bring_home)
        if self._kept is not None and desk.writable:
            desk.job_changed.connect(self._copying.start)
            desk.when_gone = self._gone
            self._bring_home()

    @property
    def is_here(self) -> bool:
        """Whether the window works on the copies."""
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
        """Go on with the copies, where there is one of the job on the desk."""
        job, kept = self._desk.job, self._kept
        if kept is None or self.is_here or self._looking.isActive():
            return
        self._looking.start()
        self._was_gone = True
        number = job.number if job is not None else None
        self._desk.executor.ask(
            "go on here",
            lambda: kept.open() if kept.has(number) else None,
            lambda copy: self._change_over(copy, number),
        )

    def _change_over(self, copy: Ledger | None, number: int | None) -> None:
        if copy is None and number is None:
            sentence = say("The server cannot be reached. What was read is shown.")
        elif copy is None:
            sentence = say(
                "The server cannot be reached, and there is no copy of this job here yet. What was "
                "read is shown; nothing more can be saved until it is back."
            )
        elif number is None:
            self._work_on(copy)
            self._desk.read_shelf()
            sentence = say(
                "The server cannot be reached. The jobs that were open here are shown. What you do "
                "in them from now on is kept here and written there when it is back."
            )
        else:
            self._work_on(copy)
            self._desk.open_job(number)
            sentence = say(
                "The server cannot be reached, and the last step was not saved. What you do from "
                "now on, in this job and others that were open here, is kept here and written "
                "there when it is back."
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
        copy = self._desk.ledger
        if self.is_here:
            self._work_on(self._server)
            copy.close()
        self._desk.door.say(say("The server is back."))
        self._bring_home()

    def _bring_home(self) -> None:
        kept, server = self._kept, self._server
        if kept is not None:
            self._desk.executor.write(
                lambda: kept.bring_home(server), self._brought, self._not_brought
            )

    def _not_brought(self, error: Exception) -> None:
        """Nothing of it is lost, and it is tried again; why not is said once."""
        if is_gone(error):
            self._gone()
            return
        if str(error) != self._why_not:
            self._why_not = str(error)
            self._desk.door.trouble(error)
        self._bringing.start()

    def _brought(self, home: Home) -> None:
        self._why_not = ""
        if home == NOTHING and not self._was_gone:
            return  # as at nearly every start
        self._was_gone = False
        job, words = self._desk.job, []
        if home.steps:
            words.append(
                say_n(
                    "One step that was kept here is written on the server.",
                    "{n} steps that were kept here are written on the server.",
                    home.steps,
                )
            )
        if home.others_count:
            words.append(
                say(
                    "Grades, searching and what other workshops learned were changed on the server "
                    "as well, and stay as they are there."
                )
            )
        if words:
            self._desk.door.say(" ".join(words))
        if job is not None and job.number in home.new:
            self._desk.close_job()  # it has another number there, and is opened once it is there
        elif job is not None:
            self._desk.open_job(job.number)
        self._desk.read_shelf()
        self._left = set(home.files)
        if home.files:
            self._job_files.take(list(home.files), self._is_home)
        else:
            self._copying.start()

    def _is_home(self, file: Path) -> None:
        """One is written; once all are, the copies are forgotten."""
        self._left.discard(file)
        if not self._left and self._kept is not None:
            self._kept.forget()
            self._copying.start()

    def close(self) -> None:
        """Let go of the server, where the copies are worked on."""
        if self.is_here:
            self._server.close()
