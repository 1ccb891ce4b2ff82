"""An open ledger: one transaction at a time is begun, saved or left, wherever it lies."""

import logging
import platform
from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from types import TracebackType
from typing import Self

from sqlalchemy import text
from sqlalchemy.orm import Session

from plucky_ledger.core.values.trouble import Trouble
from plucky_ledger.linux.users import user_name
from plucky_ledger.store.address import Address, address_of
from plucky_ledger.store.at_work import AtWork
from plucky_ledger.store.keeping import Keeping
from plucky_ledger.store.kept_in_file import InFile

CLOSE_WITHIN_SECONDS = 1.5
log = logging.getLogger(__name__)


class Ledger:
    """One open ledger.

    With ``only_look_because`` it can only be looked at, for that reason; ``read_only_because``
    says why where it can only be looked at. Writing goes through ``session`` in one transaction
    each.

    Raises:
        LedgerFault: not a ledger, of a newer version, damaged, or out of reach. Untouched then.
    """

    def __init__(
        self, address: str | Path | Address, only_look_because: Trouble | None = None
    ) -> None:
        self.address = address_of(address)
        self.author, self.bench = user_name(), platform.node()
        """Who writes in it, and at which PC of the workshop."""
        self.written: Counter[int | None] = Counter()
        """How often each job was written in since it was opened; None for the whole workshop."""
        self.may_write: Callable[[], bool] = lambda: True
        """Whether the thread that asks may write steps here: a window has one for that alone."""
        self._at_work = AtWork(self.address.text)
        self.kept: Keeping = self._open(only_look_because)

    def _open(self, only_look_because: Trouble | None) -> Keeping:
        if self.address.file is not None:
            return InFile(self.address.file, self._at_work, only_look_because)
        from plucky_ledger.store.kept_on_server import OnServer

        who = f"{self.author}@{self.bench}"
        return OnServer(self.address, who, self._at_work, only_look_because)

    @property
    def path(self) -> Path:
        """The file itself; of a server's ledger what stands for it on this PC."""
        return self.kept.path if isinstance(self.kept, InFile) else self.address.local

    @property
    def read_only_because(self) -> Trouble | None:
        """Why it can only be looked at; None where it can be written in."""
        return self.kept.read_only_because

    @contextmanager
    def session(self) -> Iterator[Session]:
        """A transaction: saved as a whole when the block ends well, otherwise not at all.

        Raises:
            LedgerFault: it could not be saved; nothing of it is. Or the ledger is no longer the one
                that was opened, or has been closed.
        """
        with self._at_work.begun(), self.kept.told_plainly():
            self.kept.refuse_another()
            with Session(self.kept.engine) as session, session.begin():
                yield session

    @contextmanager
    def writing(self, job: int | None) -> Iterator[Session]:
        """A transaction that writes in a job, or in what belongs to the whole workshop, alone.

        Raises:
            LedgerFault: as ``session``; or somebody else is writing in it.
        """
        with self.kept.held(job), self.session() as session:
            yield session
            if telling := self.kept.tell(job):
                session.execute(text(telling))
        self.written[job] += 1

    @contextmanager
    def writing_what_follows(self) -> Iterator[Session]:
        """A transaction that keeps what follows from the rest: others may have to wait for it, and
        have nothing to hear of. Raises as ``writing``.
        """
        with self.kept.held(None), self.session() as session:
            yield session

    def hold(self, job: int) -> None:
        """Have a job to oneself, among benches that share this ledger. Raises LedgerFault where
        another bench has it.
        """
        self.kept.hold(job)

    def let_go(self, job: int) -> None:
        """Let others write in a job."""
        self.kept.let_go(job)

    def listen(self, changed: Callable[[int | None], None]) -> None:
        """Call this, from a thread of its own, whenever another bench has written in a job; None
        for the whole workshop, or where something may have been missed.
        """

        def heard(job: int | None) -> None:
            self.written[job] += 1
            changed(job)

        self.kept.listen(heard)

    def close(self, seconds: float = CLOSE_WITHIN_SECONDS) -> None:
        """Let go of it as soon as nobody is at work in it, and let nobody begin any more.

        What takes longer than so many seconds is broken off: nothing of it is saved then. Whoever
        is in the middle of arithmetic meets that at their next statement, and lets go themselves.
        """
        if not self._at_work.end(seconds, self._let_go):
            log.warning("%s: a transaction was broken off because it took too long", self.path)

    def _let_go(self) -> None:
        self.kept.engine.dispose()
        self.kept.release()

    def __enter__(self) -> Self:
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        traceback: TracebackType | None,
    ) -> None:
        self.close()
