"""The server goes: the job on the desk is gone on with in a copy here, and brought home later.

What is done meanwhile are steps of the copy, kept on this PC's disk; when the server is back the
job goes into its ledger as a job file does: what only one side changed comes together by itself,
what both did is chosen.
"""

import logging
import threading
from dataclasses import dataclass
from pathlib import Path

from sqlalchemy import select

from plucky_ledger.core.values.trouble import Trouble, TroubleCode
from plucky_ledger.store.address import Address
from plucky_ledger.store.errors import LedgerFault
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.mirror import copy_job, count_steps, jobs_with_steps
from plucky_ledger.store.tables.jobs import JobRow

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

    def has(self, number: int) -> bool:
        """Whether there is a copy of a job."""
        with _ONE_AT_A_TIME:
            if not self.path.exists():
                return False
            with Ledger(self.path) as copy, copy.session() as here:
                return here.get(JobRow, number) is not None

    def open(self) -> Ledger:
        """The copies, to be gone on with. Raises Trouble."""
        return Ledger(self.path)

    def to_bring_home(self) -> tuple[Path, ...]:
        """The jobs in which something was done meanwhile, each as a file that any ledger takes in.
        Raises Trouble.
        """
        from plucky_ledger.usecases.jobs.job_files import export_job  # few ever have to

        with _ONE_AT_A_TIME:
            if not self.path.exists():
                return ()
            with Ledger(self.path) as copy:
                with copy.session() as here:
                    numbers = jobs_with_steps(here)
                files = []
                for number in numbers:
                    file = self.path.with_name(HOME.format(number=number))
                    export_job(copy, number, file)
                    files.append(file)
        log.info("%d jobs are to be brought home", len(files))
        return tuple(files)

    def forget(self) -> None:
        """Everything is at home."""
        with _ONE_AT_A_TIME:
            self._remove()

    def _remove(self) -> None:
        for path in self.path.parent.glob(self.path.stem + "*"):
            path.unlink(missing_ok=True)
