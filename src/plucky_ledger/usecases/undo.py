"""Undoing bookkeeping steps, job by job."""

from plucky_ledger.core.steps import Step
from plucky_ledger.store import undo as stored
from plucky_ledger.store.ledger import Ledger


def undo(ledger: Ledger, job: int | None) -> Step | None:
    """Undo the last step of a job, or with None of the workshop; None when there is none.

    Raises:
        Refused: other steps stand upon it.
    """
    return stored.undo(ledger, job)


def redo(ledger: Ledger, job: int | None) -> Step | None:
    """Do the step again that was undone last; None when there is none."""
    return stored.redo(ledger, job)
