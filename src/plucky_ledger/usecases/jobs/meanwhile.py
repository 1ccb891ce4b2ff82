"""The server goes: jobs that were open here are gone on with in copies, and brought home later.

What is done meanwhile are steps of the copy, kept on this PC's disk. When the server is back they
are taken there, the same ones in their order. A job that another bench has written in since, and a
new one, goes into the ledger as a job file does: what only one side changed comes together by
itself, what both did is chosen.
"""

import logging
import threading
from dataclasses import dataclass
from pathlib import Path

from sqlalchemy import select
from sqlalchemy.orm import Session

from plucky_ledger.core.values.trouble import Trouble, TroubleCode
from plucky_ledger.store.address import Address
from plucky_ledger.store.bringing_home import bring_steps
from plucky_ledger.store.errors import LedgerFault
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.mirror import copy_job, count_steps, jobs_with_steps, new_jobs
from plucky_ledger.store.tables.jobs import JobRow
from plucky_ledger.usecases.jobs.benches import tried_again

NAME, HOME = "meanwhile.ledger", "meanwhile-{number}.plucky-job"
_ONE_AT_A_TIME = threading.Lock()
"""Threads of one window look at the file."""
log = logging.getLogger(__name__)


def is_gone(error: Exception) -> bool:
    """Whether this says that the server cannot be reached."""
    return isinstance(error, Trouble) and error.code is TroubleCode.LEDGER_SERVER_GONE


def is_back(ledger: Ledger) -> bool:
    """Whether a server answers."""
    try:
        with ledger.session() as session:
            session.execute(select(1))
    except LedgerFault:
        return False
    return True


@dataclass(frozen=True)
class Home:
    """What came of what was done meanwhile."""

    steps: int
    """How many were taken in the server's ledger, as they were here."""
    files: tuple[Path, ...]
    """Jobs that are new, or that another bench has written in as well, as files to be taken in."""
    new: frozenset[int]
    """Numbers, here, of the jobs that are new."""
    others_count: bool
    """What belongs to the whole workshop was changed there as well, and stays as it is there."""


NOTHING = Home(0, (), frozenset(), others_count=False)


@dataclass(frozen=True)
class Meanwhile:
    """What this bench keeps of a server's ledger, in a file beside what else it keeps of it."""

    path: Path

    @classmethod
    def of(cls, address: Address) -> "Meanwhile | None":
        """Of a ledger; None of one that is here anyway."""
        return cls(address.local.with_name(NAME)) if address.file is None else None

    def keep(self, ledger: Ledger, number: int) -> bool:
        """Keep a job as it is on the server now; False where something is not brought home yet."""
        with _ONE_AT_A_TIME, Ledger(self.path) as copy:
            if copy.read_only_because is not None:
                return False
            with ledger.session() as there, copy.session() as here:
                if count_steps(here):
                    return False
                copy_job(there, here, number)
        return True

    def has(self, number: int | None) -> bool:
        """Whether there is a copy of a job; of any with None."""
        with _ONE_AT_A_TIME:
            if not self.path.exists():
                return False
            if number is None:
                return True
            with Ledger(self.path) as copy, copy.session() as here:
                return here.get(JobRow, number) is not None

    def open(self) -> Ledger:
        """The copies, to be gone on with. Raises Trouble."""
        return Ledger(self.path)

    def bring_home(self, ledger: Ledger) -> "Home":
        """Take on the server what was done meanwhile, where nobody else has written. Raises
        Trouble; what is not brought home stays here then.
        """
        with _ONE_AT_A_TIME:
            if not self.path.exists():
                return NOTHING
            with Ledger(self.path) as copy:
                home = self._brought(ledger, copy)
            if not home.files:
                self._remove()
        log.info("%d steps are brought home, %d jobs are to be", home.steps, len(home.files))
        return home

    def _brought(self, ledger: Ledger, copy: Ledger) -> "Home":
        from plucky_ledger.usecases.jobs.job_files import export_job  # few ever have to

        with copy.session() as here:
            new, changed = new_jobs(here), jobs_with_steps(here)
            of_the_workshop = _bring(ledger, here, None)
            brought = {job: _bring(ledger, here, job) for job in changed if job not in new}
        files = []
        for job in changed:
            if brought.get(job) is None:
                files.append(self.path.with_name(HOME.format(number=job)))
                export_job(copy, job, files[-1])
        return Home(
            steps=sum(filter(None, (of_the_workshop, *brought.values()))),
            files=tuple(files),
            new=new,
            others_count=of_the_workshop is None,
        )

    def forget(self) -> None:
        """Everything is at home."""
        with _ONE_AT_A_TIME:
            self._remove()

    def _remove(self) -> None:
        for path in self.path.parent.glob(self.path.stem + "*"):
            path.unlink(missing_ok=True)


def _bring(ledger: Ledger, copy: Session, job: int | None) -> int | None:
    return tried_again(ledger, lambda there: bring_steps(there, copy, job))
