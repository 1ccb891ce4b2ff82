"""A survey of what takes the room on a job's PC, and freed room for the book."""

from collections.abc import Callable

from plucky_ledger.core.job.changes import Change, ChangeKind
from plucky_ledger.core.pc.room import Survey
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.changing.postings import pencil
from plucky_ledger.usecases.jobs.jobs import read_job
from plucky_ledger.usecases.recording.pcs import pc_of


def survey(
    ledger: Ledger,
    number: int,
    progress: Callable[[int, str], bool],
    as_administrator: bool = False,
) -> Survey:
    """Look what takes the room; nothing is changed. ``progress`` returns False to stop.

    Raises:
        Refused: the PC is elsewhere, or nobody became administrator.
    """
    return pc_of(read_job(ledger, number)).survey(progress, as_administrator)


def pencil_clearing(ledger: Ledger, number: int, what: str, free_before: str) -> None:
    """Pencil that a heap is cleared, with the free room as it was."""
    change = Change(kind=ChangeKind.DISK_SPACE, what=what, before=free_before)
    pencil(ledger, number, (change,))
