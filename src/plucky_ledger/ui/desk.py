"""What lies on the desk. The views watch it, and ask it to write, to read and to work out."""

from collections.abc import Callable, Sequence
from dataclasses import replace
from threading import Lock
from typing import Any

from PySide6.QtCore import QObject, Signal

from plucky_ledger.core.boots.analysis import Analysis
from plucky_ledger.core.boots.boot import Boot
from plucky_ledger.core.job.job import Job
from plucky_ledger.core.job.postings import Posting
from plucky_ledger.core.pc.which import PcKind
from plucky_ledger.core.replay.startup_cost import PlanEstimate
from plucky_ledger.core.shelf.spine import Spine
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.core.values.recent import Recent
from plucky_ledger.core.values.steps import Step
from plucky_ledger.core.values.trouble import Trouble
from plucky_ledger.pages.selection import Selection
from plucky_ledger.ui.door import Door
from plucky_ledger.ui.executor import Executor
from plucky_ledger.usecases.changing.switching import Followed, follow
from plucky_ledger.usecases.jobs.benches import hold_job, tried_again
from plucky_ledger.usecases.jobs.jobs import read_job
from plucky_ledger.usecases.jobs.meanwhile import is_gone
from plucky_ledger.usecases.jobs.opening import Ledger
from plucky_ledger.usecases.jobs.shelf import (
    OnShelf,
    jobs_of_older_figures,
    keep_missing_spines,
    read_on_shelf,
    read_shelf,
)
from plucky_ledger.usecases.jobs.undo import redo, undo
from plucky_ledger.usecases.jobs.workplace import DEMO_LEDGER
from plucky_ledger.usecases.jobs.workshop import Workshop
from plucky_ledger.usecases.reading.elsewhere import keep_missing_lessons
from plucky_ledger.usecases.recording.figures import bring_figures_up_to_date
from plucky_ledger.wording.reasons import reason_in_words
from plucky_ledger.wording.steps import done_again, undone
from plucky_ledger.wording.switching import cut_off_in_words

KEPT_ANALYSES = 6
CLOSE_WITHIN_SECONDS = 1.2
BREAK_OFF_AFTER_SECONDS = 0.2


class Desk(QObject):
    """The open workshop and what is selected in it.

    Signals:
        shelf_changed(): the jobs in the ledger changed, in ``shelf``.
        job_changed(): another job was opened, or this one was written in; in ``job``.
        measure_changed(): the book is kept in another measure.
        line_changed(): another line of the book is selected.
        boot_changed(): another boot, or its recording has been read.
        expected_changed(): what the pencilled changes would bring is known.
    """

    shelf_changed = Signal()
    job_changed = Signal()
    measure_changed = Signal()
    line_changed = Signal()
    boot_changed = Signal()
    expected_changed = Signal()

    def __init__(self, workshop: Workshop) -> None:
        super().__init__()
        self.workshop = workshop
        self.door = Door()
        self.when_gone: Callable[[], None] | None = None
        """Goes on without the server, where it is gone; else that is told as any trouble is."""
        self.executor = Executor(self._failed)
        self.ledger.may_write = self.executor.may_write
        self.selection = Selection()
        self.shelf: tuple[Spine, ...] = ()
        self.closed = False
        self.chosen = False
        """A job has been asked for, though it may not be there yet."""
        self.busy = 0
        """How many steps are still being written."""
        self.expected: PlanEstimate | None = None
        """What the pencilled changes are expected to bring; None until it is known."""
        self.held_because: Trouble | None = None
        """Why the job on the desk can only be looked at, though the ledger can be written in."""
        self._held: int | None = None
        """The job that no other bench can write in."""
        self._holding = Lock()
        self._expected_for: tuple[int, Posting | None] | None = None
        self._analyses: Recent[str, Analysis] = Recent(KEPT_ANALYSES)
        """Of the boots looked at last, by their names."""

    @property
    def ledger(self) -> Ledger:
        """The ledger that is worked on."""
        return self.workshop.ledger

    def _failed(self, error: Exception) -> None:
        """Trouble is told; that the server is gone is told by whoever goes on without it."""
        if is_gone(error) and self.when_gone is not None:
            self.when_gone()
        else:
            self.door.trouble(error)

    # What is selected.

    @property
    def job(self) -> Job | None:
        """The job on the desk."""
        return self.selection.job

    @property
    def measure(self) -> Measure:
        """What the book is kept in."""
        return self.selection.measure

    @property
    def line(self) -> int:
        """The selected line of the book."""
        return self.selection.line

    @property
    def boots(self) -> tuple[Boot, ...]:
        """Boots of the selected line."""
        return self.selection.boots

    @property
    def boot(self) -> Boot | None:
        """The boot that is looked at."""
        return self.selection.boot

    @property
    def behind(self) -> Boot | None:
        """The boot laid behind it."""
        return self.selection.behind

    @property
    def writable(self) -> bool:
        """Whether anything can be written, in the job on the desk where there is one."""
        return not self.workshop.read_only and (self.job is None or self.held_because is None)

    # Jobs.

    @property
    def is_demo(self) -> bool:
        """Whether this is the demo's ledger, which is begun anew at will."""
        return self.ledger.path.name == DEMO_LEDGER

    def read_shelf(self) -> None:
        """Read all jobs of the ledger."""
        self.executor.ask("shelf", lambda: read_shelf(self.ledger), self._shelf_read)

    def _shelf_read(self, shelf: tuple[Spine, ...]) -> None:
        self.shelf = shelf
        self.shelf_changed.emit()

    def open_job(self, number: int) -> None:
        """Put a job on the desk."""
        self.chosen = True
        self.executor.ask("job", lambda: self._taken(number), self._put_on)

    def _taken(self, number: int) -> tuple[Job, Trouble | None]:
        """A job, and why it can only be looked at; what was on the desk is others' from now on."""
        with self._holding:
            if self._held is not None and self._held != number:
                self.ledger.let_go(self._held)
            self._held = number
            because = hold_job(self.ledger, number)
        return read_job(self.ledger, number), because

    def _put_on(self, taken: tuple[Job, Trouble | None]) -> None:
        job, self.held_because = taken
        if self.held_because is not None and not self.workshop.read_only:
            self.door.trouble(self.held_because)
        self._opened(job)

    def _opened(self, job: Job) -> None:
        self._select(self.selection.opened(job))
        if self.writable and job.pc.kind is PcKind.REAL:
            self._follow(job)

    def _follow(self, job: Job) -> None:
        """Where something cut in between changing the PC and writing that down."""

        def done(followed: Followed) -> None:
            if followed.wrote:
                self.executor.ask("job", lambda: read_job(self.ledger, job.number), self._opened)
            remarks = [cut_off_in_words()] if followed.cut_off else []
            remarks += [reason_in_words(reason) for reason in followed.left_out]
            if remarks and self.job is not None and self.job.number == job.number:
                self.door.say(" ".join(remarks))

        self.executor.write(lambda: follow(self.ledger, job.number), done, self._failed)

    def bring_figures_up_to_date(self) -> None:
        """Once after an update that changed how figures are made; other steps get in between."""
        if self.writable:
            self.executor.ask(
                "older figures", lambda: jobs_of_older_figures(self.ledger), self._bring_next
            )

    def _bring_next(self, jobs: Sequence[int]) -> None:
        if not jobs:
            self._keep_spines()
            return
        first, *rest = jobs

        def work() -> OnShelf | None:
            bring_figures_up_to_date(self.ledger, first)
            return read_on_shelf(self.ledger, first)

        def done(now: OnShelf | None) -> None:
            self._show_step(first, now)
            self._bring_next(rest)

        self.executor.write(work, done, self._failed)

    def _keep_spines(self) -> None:
        """Those that an older version has not written, and what jobs taught; other steps get in
        between.
        """

        def done(kept: int) -> None:
            if kept:
                self._keep_spines()

        def keep(ledger: Ledger) -> int:
            return keep_missing_spines(ledger) or keep_missing_lessons(ledger)

        self.executor.write(lambda: tried_again(self.ledger, keep), done, self._failed)

    def close_job(self) -> None:
        """Back to the shelf."""
        held, self._held, self.held_because = self._held, None, None
        if held is not None:
            self.executor.ask("let go", lambda: self.ledger.let_go(held), lambda _none: None)
        self._select(Selection())
        self.read_shelf()

    def others_wrote(self, number: int | None) -> None:
        """Show what another bench has written; what is selected stays."""
        self.read_shelf()
        job = self.job
        if job is None or number not in {None, job.number}:
            return
        if self.held_because is not None:
            self.executor.ask("job", lambda: self._taken(job.number), self._others_done)
        else:
            self.executor.ask("job", lambda: read_job(self.ledger, job.number), self._shown_anew)

    def _others_done(self, taken: tuple[Job, Trouble | None]) -> None:
        """They may have closed it meanwhile."""
        job, because = taken
        if self.job is not None and self.job.number == job.number:
            was_held, self.held_because = self.held_because, because
            if (was_held is None) is not (because is None):
                self._select(self.selection.refreshed(job))
            else:
                self._shown_anew(job)

    def _shown_anew(self, job: Job) -> None:
        if self.job is not None and self.job.number == job.number and self.job != job:
            self._select(self.selection.refreshed(job))

    # Steps that write.

    def do(self, step: Callable[[Ledger], Any], done: Callable[[Any], None] | None = None) -> None:
        """Take a bookkeeping step, then show the job on the desk as it is after it.

        ``step`` runs on the writer's thread; ``done`` gets its result here, once shown.
        """
        number = self.job.number if self.job else None

        def work() -> tuple[Any, OnShelf | None]:
            result = tried_again(self.ledger, step)
            return result, read_on_shelf(self.ledger, number) if number is not None else None

        def finished(outcome: tuple[Any, OnShelf | None]) -> None:
            self.busy -= 1
            result, now = outcome
            self._show_step(number, now)
            if done is not None:
                done(result)

        self.busy += 1
        self.executor.write(work, finished, self._step_failed)

    def _show_step(self, number: int | None, now: OnShelf | None) -> None:
        if number is None:
            self.read_shelf()
            return
        self.shelf = tuple(
            now.spine if spine.job == number and now is not None else spine
            for spine in self.shelf
            if spine.job != number or now is not None
        )
        if self.job is not None and self.job.number == number:
            self._select(self.selection.refreshed(now.job) if now else Selection())
        self.shelf_changed.emit()

    def _step_failed(self, error: Exception) -> None:
        self.busy -= 1
        self._failed(error)

    def undo(self) -> None:
        """Undo the last step of the job on the desk; without one, of the workshop."""
        number = self.job.number if self.job else None
        self.do(lambda ledger: undo(ledger, number), self._said_undone)

    def redo(self) -> None:
        """Do the step again that was undone last."""
        number = self.job.number if self.job else None
        self.do(lambda ledger: redo(ledger, number), self._said_done_again)

    def _said_undone(self, step: Step | None) -> None:
        self.door.say(undone(step))

    def _said_done_again(self, step: Step | None) -> None:
        self.door.say(done_again(step))

    # Selecting.

    def keep_book_in(self, measure: Measure) -> None:
        """Keep the book in another measure."""
        if measure is not self.measure:
            self.selection = replace(self.selection, measure=measure)
            self.measure_changed.emit()

    def select_line(self, line: int) -> None:
        """Select a line of the book; its newest boot that counts comes with it."""
        if self.job is not None and line != self.line:
            self.selection = self.selection.at_line(line)
            self._fetch(self.boot)
            self.line_changed.emit()

    def stand_at_newest(self) -> None:
        """Select the line of what was posted last: what was just done is in sight."""
        job = self.job
        if job is not None:
            posted = job.last_posted
            self.select_line(job.postings.index(posted) + 1 if posted is not None else 0)

    def choose_boot(self, boot: Boot | None) -> None:
        """Show a boot of the selected line."""
        self.selection = replace(self.selection, boot=boot)
        self._fetch(boot)

    def lay_behind(self, boot: Boot | None) -> None:
        """Lay another boot behind it."""
        self.selection = replace(self.selection, behind=boot)
        self._fetch(boot)

    def analysis(self, boot: Boot | None) -> Analysis | None:
        """What is worked out of a boot; None while it is still being read."""
        analysis = self._analyses.get(boot.uuid) if boot else None
        return analysis if analysis is not None and analysis.boot == boot else None

    def _fetch(self, boot: Boot | None) -> None:
        job = self.job
        if boot is None or job is None or self.analysis(boot) is not None:
            self.boot_changed.emit()
            return
        number, analyses = job.number, self.workshop.analyses
        self.executor.ask(
            f"boot {boot.uuid}", lambda: analyses.of(self.ledger, number, boot), self._analysed
        )

    def _analysed(self, analysis: Analysis) -> None:
        self._analyses.keep(analysis.boot.uuid, analysis)
        self.boot_changed.emit()

    def _select(self, selection: Selection) -> None:
        self.selection = selection
        self._fetch(self.boot)
        self._expect()
        self.job_changed.emit()

    def _expect(self) -> None:
        """Work out, in the background, what the pencilled changes would bring."""
        job = self.job
        key = (job.number, job.pencilled) if job is not None else None
        if key == self._expected_for:
            return
        self._expected_for, self.expected = key, None
        if job is None or job.pencilled is None:
            return
        number, shop = job.number, self.workshop

        def known(estimate: PlanEstimate | None) -> None:
            if key == self._expected_for:
                self.expected = estimate
                self.expected_changed.emit()

        self.executor.work_out("expected", lambda: shop.expected(number), known, at_leisure=True)

    def close(self) -> None:
        """Finish what is being written and let go of the ledger: within two seconds."""
        self.closed = True
        self.executor.close(CLOSE_WITHIN_SECONDS)
        self.ledger.close(BREAK_OFF_AFTER_SECONDS)
