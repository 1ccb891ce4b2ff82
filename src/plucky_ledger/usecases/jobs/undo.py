"""Undoing bookkeeping steps, job by job."""

from plucky_ledger.core.values.steps import Step, StepCode
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.store import undo as stored
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.changing.switching import changed_the_pc
from plucky_ledger.usecases.jobs.jobs import read_job

_CHANGE_THE_PC = {StepCode.POST, StepCode.PUT_BACK}


def undo(ledger: Ledger, job: int | None) -> Step | None:
    """Undo the last step of a job, or with None of the workshop; None when there is none.

    Raises:
        Refused: other steps stand upon it, or a PC was changed by it.
    """
    on_the_pc = job is not None and stored.next_to_undo(ledger, job) in _CHANGE_THE_PC
    if job is not None and on_the_pc and changed_the_pc(read_job(ledger, job)):
        raise Refused(TroubleCode.PUT_BACK_INSTEAD)
    return stored.undo(ledger, job)


def redo(ledger: Ledger, job: int | None) -> Step | None:
    """Do the step again that was undone last; None when there is none."""
    return stored.redo(ledger, job)
