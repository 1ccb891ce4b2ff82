"""Who writes in what of a server's ledger: locks that end with the connection that has them.

PostgreSQL, "Advisory Lock Functions": a lock has two numbers, and is a session's.
"""

import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from typing import TYPE_CHECKING, Any

from plucky_ledger.core.values.trouble import TroubleCode
from plucky_ledger.store.errors import LedgerFault

if TYPE_CHECKING:
    from psycopg import Connection as Driver

JOBS, WHOLE, PRESENT = 0x504C_4C01, 0x504C_4C02, 0x504C_4C03
"""First number of a lock: of a job, of what belongs to the whole workshop, and of those who have
the ledger open (shared; whoever changes its tables has it alone)."""
WAIT_MILLISECONDS = 5000


class Locks:
    """The locks of one bench, all on one connection. May be asked from several threads."""

    def __init__(self, connect: Callable[[], "Driver[Any]"], who: str) -> None:
        self._connect = connect
        self._who = who
        self._guard = threading.RLock()
        self._connection: Driver[Any] | None = None
        self._shared: set[int] = set()
        self._kept: set[int] = set()
        """Jobs that this bench has to itself until it lets go of them."""
        self.pid = 0
        """Of the server's process for this connection: what tells this bench from others."""

    def share(self, what: int) -> None:
        """Be one of those who have it. Raises LedgerFault where somebody has it alone."""
        with self._guard:
            if not self._ask("SELECT pg_try_advisory_lock_shared(%s, 0)", what):
                raise LedgerFault(TroubleCode.LEDGER_BEING_UPGRADED)
            self._shared.add(what)

    @contextmanager
    def held(self, job: int | None) -> Iterator[None]:
        """While a step is taken in a job, or in what belongs to the whole workshop."""
        with self._guard:
            if job is not None and self._still_kept(job):
                yield
                return
            what, which = (JOBS, job) if job is not None else (WHOLE, 0)
            if job is not None:
                self._refuse_anothers(job)
            self._wait_for(what, which)
            try:
                yield
            finally:
                with suppress(Exception):  # with the connection the lock is gone as well
                    self._ask("SELECT pg_advisory_unlock(%s, %s)", what, which)

    def hold(self, job: int) -> None:
        """Have a job to oneself. Raises LedgerFault where another bench has it."""
        with self._guard:
            if self._still_kept(job):
                return
            self._refuse_anothers(job)
            self._wait_for(JOBS, job)
            self._ask(
                "INSERT INTO job_holders (job, process, who, since) VALUES (%s, %s, %s, now()) "
                "ON CONFLICT (job) DO UPDATE SET process = excluded.process, who = excluded.who, "
                "since = excluded.since RETURNING job",
                job,
                self.pid,
                self._who,
            )
            self._kept.add(job)

    def let_go(self, job: int, telling: str) -> None:
        """Let others write in it; ``telling`` is SQL that tells them."""
        with self._guard:
            if job not in self._kept:
                return
            self._kept.discard(job)
            with suppress(Exception):  # with the connection the lock is gone as well
                self._ask("SELECT pg_advisory_unlock(%s, %s)", JOBS, job)
                self._ask(telling)

    def close(self) -> None:
        """Let go of everything."""
        with self._guard:
            self._kept.clear()
            self._drop()

    def _still_kept(self, job: int) -> bool:
        """Whether this bench has the job to itself; taken anew where the connection was lost."""
        if job not in self._kept:
            return False
        try:
            self._ask("SELECT 1")
        except Exception:
            if self._connection is not None:
                raise
            self._usable()
        if job not in self._kept:
            self.hold(job)
        return True

    def _refuse_anothers(self, job: int) -> None:
        """Raises LedgerFault where another bench has it to itself: there is nothing to wait for."""
        found = self._row(
            "SELECT who, since::text FROM job_holders AS holder WHERE job = %s AND process <> %s "
            "AND EXISTS (SELECT FROM pg_locks WHERE locktype = 'advisory' AND granted "
            "AND classid = %s AND objid = %s AND pid = holder.process)",
            job,
            self.pid,
            JOBS,
            job,
        )
        if found is not None:
            who, since = found
            raise LedgerFault(TroubleCode.JOB_HELD, who=str(who), since=str(since)[:16])

    def _wait_for(self, what: int, which: int | None) -> None:
        self._ask(f"SELECT set_config('lock_timeout', '{WAIT_MILLISECONDS}', false)")
        self._ask("SELECT pg_advisory_lock(%s, %s)", what, which)

    def _ask(self, statement: str, *values: object) -> object:
        row = self._row(statement, *values)
        return row[0] if row is not None else None

    def _row(self, statement: str, *values: object) -> tuple[Any, ...] | None:
        connection = self._usable()
        try:
            return connection.execute(statement, values).fetchone()
        except Exception:
            if connection.broken:
                self._drop()
            raise

    def _usable(self) -> "Driver[Any]":
        """The connection, made anew where it was lost; whoever had a job to themselves then has it
        no more.
        """
        if self._connection is not None and not self._connection.closed:
            return self._connection
        lost, self._kept = self._kept, set()
        self._connection = self._connect()
        self.pid = self._connection.info.backend_pid
        for what in self._shared:
            self.share(what)
        for job in lost:
            self.hold(job)
        return self._connection

    def _drop(self) -> None:
        connection, self._connection = self._connection, None
        if connection is not None:
            with suppress(Exception):  # it is gone, as it is to be
                connection.close()
