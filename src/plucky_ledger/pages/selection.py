"""What is selected: the job on the desk, the line of its book, the boots looked at, the measure."""

from dataclasses import dataclass, replace

from plucky_ledger.core.boots.boot import Boot, counted
from plucky_ledger.core.job.job import Job, boot_of
from plucky_ledger.core.job.postings import Posting
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.pages.shelf import best_measure, is_measured


@dataclass(frozen=True)
class Selection:
    """One state of what is selected; every change gives another."""

    job: Job | None = None
    measure: Measure = Measure.SETTLED
    line: int = 0
    """Index of the line in the book; behind the last stands the balance."""
    boot: Boot | None = None
    behind: Boot | None = None
    """Boot laid behind the chosen one."""

    @property
    def boots(self) -> tuple[Boot, ...]:
        """Boots of the selected line; of the last measured one for a line that has none yet."""
        if self.job is None:
            return ()
        rounds = self.job.rounds[: min(self.line, len(self.job.rounds) - 1) + 1]
        return next((boots for boots in reversed(rounds) if boots), ())

    @property
    def posting(self) -> Posting | None:
        """Posting of the selected line; None on the opening and the balance line."""
        if self.job is None or not 1 <= self.line <= len(self.job.postings):
            return None
        return self.job.postings[self.line - 1]

    def opened(self, job: Job) -> "Selection":
        """Another job is put on the desk, at the line of the state its PC is in."""
        posted = job.last_posted
        line = job.postings.index(posted) + 1 if posted is not None else 0
        return Selection(job, best_measure(job)).at_line(line)

    def refreshed(self, job: Job) -> "Selection":
        """The same job as it is now; what was selected stays as far as it is still there."""
        measure = self.measure if is_measured(job, self.measure) else best_measure(job)
        now = replace(self, job=job, line=min(self.line, len(job.rounds)), measure=measure)
        boot = next((boot for boot in now.boots if self.boot and boot.uuid == self.boot.uuid), None)
        behind = boot_of(job, self.behind.number) if self.behind else None
        return replace(now, boot=boot or now._default_boot(), behind=behind)

    def at_line(self, line: int) -> "Selection":
        """Another line of the book; its newest boot that counts comes with it."""
        there = replace(self, line=line, behind=None)
        return replace(there, boot=there._default_boot())

    def _default_boot(self) -> Boot | None:
        counting = counted(self.boots) or self.boots
        return counting[-1] if counting else None
