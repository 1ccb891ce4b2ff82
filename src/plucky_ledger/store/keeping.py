"""What a ledger needs of the place it lies in."""

from collections.abc import Callable
from contextlib import AbstractContextManager
from typing import Protocol

from sqlalchemy import Engine

from plucky_ledger.core.values.trouble import Trouble


class Keeping(Protocol):
    """A file, or a database of a server, opened and brought up to date."""

    engine: Engine
    read_only_because: Trouble | None
    """Why it can only be looked at; None where it can be written in."""
    keeps_all_steps: bool
    """Whether steps that are old, or can no longer be done again, stay all the same."""

    def told_plainly(self) -> AbstractContextManager[None]:
        """Errors of the database from outside become a LedgerFault; bugs pass through."""

    def refuse_another(self) -> None:
        """Raises LedgerFault where it is no longer what was opened."""

    def held(self, job: int | None) -> AbstractContextManager[None]:
        """While a step is taken: nobody else takes one in this job, or in what belongs to the
        whole workshop. Raises LedgerFault where somebody else has it.
        """

    def hold(self, job: int) -> None:
        """Have a job to oneself until it is let go of, or this ends. Raises LedgerFault where
        somebody else has it.
        """

    def let_go(self, job: int) -> None:
        """Let others write in a job."""

    def tell(self, job: int | None) -> str:
        """SQL that tells other benches within the transaction that a job was written in; empty
        where there is nobody to tell.
        """

    def listen(self, changed: Callable[[int | None], None]) -> None:
        """Call this, from a thread of its own, whenever another bench has written in a job."""

    def release(self) -> None:
        """Let go of it."""
