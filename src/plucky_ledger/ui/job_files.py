"""Jobs that go out as one file and come in from one. What that takes is loaded when it is done."""

from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QWidget

from plucky_ledger.core.values.endings import JOB_FILE
from plucky_ledger.core.values.trouble import Trouble
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.dialogs import ask_what_to_open, ask_where_to_save
from plucky_ledger.ui.window_panels import Panels
from plucky_ledger.usecases.jobs.jobs import read_job
from plucky_ledger.usecases.jobs.workplace import home_folder
from plucky_ledger.wording.language import N_, say

if TYPE_CHECKING:
    from plucky_ledger.usecases.jobs.job_files import Incoming, Side, TakenInJob

KINDS = N_("Jobs (*.plucky-job)")


def job_files_in(paths: Sequence[Path]) -> list[Path]:
    """Those of some files that are jobs."""
    return [path for path in paths if path.name.endswith(JOB_FILE)]


class JobFiles:
    """Writes the open job into a file, and takes such files in."""

    def __init__(self, desk: Desk, window: QWidget, panels: Panels) -> None:
        self._desk, self._window, self._panels = desk, window, panels
        self._waiting: list[Path] = []
        """Files to be looked into, the one that is being first."""
        self._then: dict[Path, Callable[[Path], None]] = {}
        """Who waits for a file to be taken in."""

    def ask_and_export(self) -> None:
        """Choose where the open job goes."""
        job = self._desk.job
        if job is not None:
            start = home_folder() / f"job-{job.card.label}{JOB_FILE}"
            ask_where_to_save(self._window, say("Export this job"), start, say(KINDS), self.export)

    def export(self, path: Path) -> None:
        """Write the open job there."""
        from plucky_ledger.usecases.jobs.job_files import export_job
        from plucky_ledger.wording.job_files import exported

        job, ledger = self._desk.job, self._desk.ledger
        if job is not None:
            number = job.number
            self._desk.executor.ask(
                f"export {path}",
                lambda: export_job(ledger, number, path),
                lambda _: self._desk.door.say(exported(str(path))),
            )

    def ask_and_import(self) -> None:
        """Choose job files to take in."""
        ask_what_to_open(self._window, say("Import jobs"), home_folder(), say(KINDS), self.take)

    def take(self, paths: list[Path], then: Callable[[Path], None] | None = None) -> None:
        """Take job files in, one after the other; what both changed is chosen first. ``then`` is
        called with each that is taken in.
        """
        is_under_way = bool(self._waiting)
        if then is not None:
            self._then.update(dict.fromkeys(paths, then))
        self._waiting += paths
        if not is_under_way:
            self._look_into_next()

    def _look_into_next(self) -> None:
        from plucky_ledger.usecases.jobs.job_files import look_into

        if self._waiting:
            ledger, path = self._desk.ledger, self._waiting[0]
            self._desk.executor.run(
                lambda _errand: look_into(ledger, path), self._looked_into, self._refused
            )

    def _refused(self, trouble: Trouble) -> None:
        self._desk.door.trouble(trouble)
        self._done()

    def _done(self) -> None:
        self._waiting = self._waiting[1:]
        self._look_into_next()

    def _looked_into(self, incoming: "Incoming") -> None:
        path = self._waiting[0]
        if not incoming.conflicts:
            self._take_in(incoming, {}, path)
            self._done()
            return
        self._panels.show_differences(incoming, lambda side: self._take_in(incoming, side, path))
        self._panels.differences.closed.connect(self._done, Qt.ConnectionType.SingleShotConnection)

    def _take_in(self, incoming: "Incoming", chosen: "Mapping[str, Side]", path: Path) -> None:
        from plucky_ledger.usecases.jobs.job_files import take_in_file

        self._desk.do(
            lambda ledger: take_in_file(ledger, incoming, chosen),
            lambda done: self._taken(done, path),
        )

    def _taken(self, done: "TakenInJob", path: Path) -> None:
        from plucky_ledger.wording.job_files import taken_in

        if then := self._then.pop(path, None):
            then(path)
        self._desk.read_shelf()
        self._desk.open_job(done.job)
        card = read_job(self._desk.ledger, done.job).card
        self._desk.door.say(taken_in(card.title, card.label, done.brought))
