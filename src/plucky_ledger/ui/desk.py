"""What lies on the desk: the open ledger, the job, and what is selected. The views watch it."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject, QTimer, Signal

from plucky_ledger.core.book.job import Job, Posting
from plucky_ledger.core.boots.boot import Boot, Timeline
from plucky_ledger.core.cost.cost import PlanEstimate
from plucky_ledger.core.measures import Measure
from plucky_ledger.linux.files import NotSaved
from plucky_ledger.pages.shelf import best_measure, is_measured, read_shelf
from plucky_ledger.store import jobs as stored
from plucky_ledger.store.errors import LedgerFault
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.undo import Step, redo, undo
from plucky_ledger.ui.worker import Workers
from plucky_ledger.usecases.boots import recorded_boot
from plucky_ledger.usecases.costs import CostsKept, expected_of
from plucky_ledger.usecases.jobs import Refused

TROUBLE = (Refused, LedgerFault, NotSaved)
"""What is told to the technician; everything else is a bug and goes to the exception hook."""
LEISURE_MILLISECONDS = 500
KEPT_TIMELINES = 6


@dataclass(frozen=True)
class Message:
    """One sentence for the technician."""

    text: str
    bad: bool = False


_TimelineKey = tuple[int, datetime]
"""Number and start of a boot: after undoing, a number may come to belong to another boot."""


def _key(boot: Boot) -> _TimelineKey:
    return (boot.number, boot.started_at)


class Desk(QObject):
    """The open ledger and what is selected in it. Writes happen one after the other on a thread.

    Signals:
        shelf_changed(): the jobs in the ledger changed, in ``jobs``.
        job_changed(): another job was opened, or this one was written in; in ``job``.
        measure_changed(): the book is kept in another measure.
        line_changed(): another line of the book is selected.
        boot_changed(): another boot, or its timeline has been read.
        expected_changed(): what the pencilled changes would bring is known.
        told(Message): something to be said.
    """

    shelf_changed = Signal()
    job_changed = Signal()
    measure_changed = Signal()
    line_changed = Signal()
    boot_changed = Signal()
    expected_changed = Signal()
    told = Signal(object)

    def __init__(self, ledger: Ledger) -> None:
        super().__init__()
        self.ledger = ledger
        self.jobs: tuple[Job, ...] = ()
        self.look_ups: dict[int, int] = {}
        """How many entries are to be looked up, by job number."""
        self.job: Job | None = None
        self.measure = Measure.SETTLED
        self.line = 0
        self.boot: Boot | None = None
        self.behind: Boot | None = None
        """Boot laid behind the chosen one."""
        self.busy = 0
        """How many steps are still being written."""
        self.costs = CostsKept()
        self.expected: PlanEstimate | None = None
        """What the pencilled changes are expected to bring; None until it is known."""
        self._expected_for: tuple[int, Posting | None] | None = None
        self._timelines: dict[_TimelineKey, Timeline] = {}
        self._writer = Workers(1)
        self._readers = Workers(2)
        self._reckoner = Workers(1)
        """For what takes a moment to work out, so that reading never waits behind it."""

    # Jobs.

    def read_shelf(self) -> None:
        """Read all jobs of the ledger."""
        self._read(lambda: read_shelf(self.ledger), self._shelf_read)

    def _shelf_read(self, found: tuple[tuple[Job, ...], dict[int, int]]) -> None:
        self.jobs, self.look_ups = found
        self.shelf_changed.emit()

    def open_job(self, number: int) -> None:
        """Put a job on the desk."""
        self._read(lambda: stored.job(self.ledger, number), self._opened)

    def _opened(self, job: Job) -> None:
        self.measure = best_measure(job)
        self.line = 0
        self._take_over(job)

    def close_job(self) -> None:
        """Back to the shelf."""
        self.job = self.boot = self.behind = None
        self.read_shelf()
        self.job_changed.emit()

    # Steps that write.

    def do(self, step: Callable[[Ledger], Any], done: Callable[[Any], None] | None = None) -> None:
        """Take a bookkeeping step, then show the job as it is after it.

        ``step`` runs on the writer's thread; ``done`` gets its result here, once shown.
        """
        number = self.job.number if self.job else None

        def work(_task: object) -> tuple[Any, tuple[Job, ...], dict[int, int]]:
            return step(self.ledger), *read_shelf(self.ledger)

        def finished(outcome: tuple[Any, tuple[Job, ...], dict[int, int]]) -> None:
            self.busy -= 1
            result, self.jobs, self.look_ups = outcome
            job = next((job for job in self.jobs if job.number == number), None)
            if number is not None and self.job is not None and self.job.number == number:
                self._take_over(job)
            self.shelf_changed.emit()
            if done is not None:
                done(result)

        self.busy += 1
        self._writer.start(work, finished, self._step_failed)

    def _step_failed(self, error: Exception) -> None:
        self.busy -= 1
        self.trouble(error)

    def undo(self) -> None:
        """Undo the last bookkeeping step."""
        self.do(undo, lambda step: self._told_step("Undone", "Nothing to undo.", step))

    def redo(self) -> None:
        """Do the step again that was undone last."""
        self.do(redo, lambda step: self._told_step("Done again", "Nothing to do again.", step))

    def _told_step(self, verb: str, nothing: str, step: Step | None) -> None:
        self.say(f"{verb}: {step.label}." if step else nothing)

    # Selection.

    def keep_book_in(self, measure: Measure) -> None:
        """Keep the book in another measure."""
        if measure is not self.measure:
            self.measure = measure
            self.measure_changed.emit()

    def select_line(self, line: int) -> None:
        """Select a line of the book; its newest boot that counts comes with it."""
        if self.job is None or line == self.line:
            return
        self.line = line
        self.behind = None
        self._choose_default_boot()
        self.line_changed.emit()

    @property
    def boots(self) -> tuple[Boot, ...]:
        """Boots of the selected line; of the last measured one for a line that has none yet."""
        if self.job is None:
            return ()
        rounds = self.job.rounds[: min(self.line, len(self.job.rounds) - 1) + 1]
        return next((boots for boots in reversed(rounds) if boots), ())

    def choose_boot(self, boot: Boot | None) -> None:
        """Show a boot of the selected line."""
        self.boot = boot
        self._fetch(boot)

    def lay_behind(self, boot: Boot | None) -> None:
        """Lay another boot behind it."""
        self.behind = boot
        self._fetch(boot)

    def timeline(self, boot: Boot | None) -> Timeline | None:
        """What happened over time in a boot; None while it is still being read."""
        return self._timelines.get(_key(boot)) if boot else None

    def _fetch(self, boot: Boot | None) -> None:
        if boot is None or _key(boot) in self._timelines:
            self.boot_changed.emit()
            return
        self._read(lambda: (_key(boot), recorded_boot(self.ledger, boot)), self._timeline_read)

    def _timeline_read(self, answer: tuple[_TimelineKey, Any]) -> None:
        key, recorded = answer
        while len(self._timelines) >= KEPT_TIMELINES:
            self._timelines.pop(next(iter(self._timelines)))
        self._timelines[key] = recorded.timeline if recorded else Timeline()
        self.boot_changed.emit()

    def _take_over(self, job: Job | None) -> None:
        self.job = job
        if job is None:
            self.boot = self.behind = None
        else:
            self.line = min(self.line, len(job.rounds))
            if not is_measured(job, self.measure):
                self.measure = best_measure(job)
            chosen = self.boot.number if self.boot else None
            self.boot = next((b for b in self.boots if b.number == chosen), None)
            if self.behind is not None:
                every = [boot for boots in job.rounds for boot in boots]
                self.behind = next((b for b in every if b.number == self.behind.number), None)
            if self.boot is None:
                self._choose_default_boot()
            else:
                self._fetch(self.boot)
        self._expect()
        self.job_changed.emit()

    def _expect(self) -> None:
        """Work out, in the background, what the pencilled changes would bring."""
        job = self.job
        wanted = (job.number, job.pencilled) if job is not None else None
        if wanted == self._expected_for:
            return
        self._expected_for, self.expected = wanted, None
        if job is None or job.pencilled is None:
            return

        def known(found: PlanEstimate | None) -> None:
            if wanted == self._expected_for:
                self.expected = found
                self.expected_changed.emit()

        self.work_out(lambda: expected_of(self.ledger, job, self.costs), known, at_leisure=True)

    def _choose_default_boot(self) -> None:
        counting = [boot for boot in self.boots if boot.counts] or list(self.boots)
        self.choose_boot(counting[-1] if counting else None)

    # Messages and other work.

    def say(self, text: str, bad: bool = False) -> None:
        """Tell the technician something."""
        self.told.emit(Message(text, bad))

    def trouble(self, error: Exception) -> None:
        """Tell of trouble from outside; a bug is raised, so that the exception hook sees it."""
        if not isinstance(error, TROUBLE):
            raise error
        self.say(str(error), bad=True)

    def work(self, job: Callable[[], Any], done: Callable[[Any], None]) -> None:
        """Do something that writes no book, off this thread."""
        self._read(job, done)

    def work_out(
        self, ask: Callable[[], Any], answer: Callable[[Any], None], at_leisure: bool = False
    ) -> None:
        """Do something that takes long to compute, one after the other, off this thread.

        ``at_leisure``: nobody is waiting for it, so the window gets itself ready first.
        """
        QTimer.singleShot(
            LEISURE_MILLISECONDS if at_leisure else 0,
            self,
            lambda: self._reckoner.start(lambda _task: ask(), answer, self.trouble),
        )

    def _read(self, ask: Callable[[], Any], answer: Callable[[Any], None]) -> None:
        self._readers.start(lambda _task: ask(), answer, self.trouble)

    @property
    def recordings_folder(self) -> Path:
        """Where recordings are written until they are in the ledger."""
        return self.ledger.path.parent / "recordings"

    def close(self) -> None:
        """Finish what is being written and let go of the ledger."""
        self._writer.finish()
        self._readers.finish()
        self._reckoner.finish()
        self.ledger.close()
