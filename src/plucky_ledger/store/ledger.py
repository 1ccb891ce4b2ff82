"""Opening a ledger: created, checked, backed up before a migration, and held by one writer."""

import logging
import os
import platform
import sqlite3
import threading
import time
from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from types import TracebackType
from typing import Self

from sqlalchemy import Connection, Engine, create_engine, event, make_url
from sqlalchemy.exc import ArgumentError
from sqlalchemy.orm import Session
from sqlalchemy.pool import NullPool

from plucky_ledger.core.values.trouble import Trouble, TroubleCode
from plucky_ledger.linux.files import copy_whole, open_fresh
from plucky_ledger.linux.users import user_name
from plucky_ledger.store.errors import LedgerFault, told_plainly
from plucky_ledger.store.ledger_file import (
    APPLICATION_ID,
    TABLES,
    beside,
    claim,
    foreign_part,
    hold,
    identity,
    look_at,
    schema_version,
    tables_missing,
)
from plucky_ledger.store.migrating import KNOWN, NEWEST, bring_up_to_date

BUSY_MILLISECONDS = 5000
CLOSE_WITHIN_SECONDS = 1.5
BREAK_OFF_WITHIN_SECONDS = 0.15
"""How long those who are broken off are waited for; then they let go of the file themselves."""
LOOK_AGAIN_SECONDS = 0.02
log = logging.getLogger(__name__)


def file_of(address: str | Path) -> Path:
    """The file a ledger's address names: a path, or a database URL of a file.

    Raises:
        LedgerFault: it is a database of a kind that no ledger is kept in yet.
    """
    if isinstance(address, Path) or "://" not in address:
        return Path(address)
    try:
        url = make_url(address)
    except ArgumentError as error:
        raise LedgerFault(TroubleCode.LEDGER_KIND_UNKNOWN, address=address) from error
    if url.get_backend_name() != "sqlite" or not url.database:
        raise LedgerFault(TroubleCode.LEDGER_KIND_UNKNOWN, address=url.render_as_string())
    return Path(url.database)


class Ledger:
    """One open ledger.

    With ``only_look_because`` it can only be looked at, for that reason.

    The first to open it writes; whoever opens it while it is held gets it read-only, and
    ``read_only_because`` says so. Writing goes through ``session`` in one transaction each.

    Raises:
        LedgerFault: not a ledger, of a newer version, damaged, or out of reach. Untouched then.
    """

    def __init__(self, address: str | Path, only_look_because: Trouble | None = None) -> None:
        file = look_at(file_of(address))
        self.path = file.path
        self.author, self.bench = user_name(), platform.node()
        """Who writes in it, and at which PC of the workshop."""
        self.written: Counter[int | None] = Counter()
        """How often each job was written in since it was opened; None for the whole workshop."""
        self.may_write: Callable[[], bool] = lambda: True
        """Whether the thread that asks may write steps here: a window has one for that alone."""
        self._at_work = _AtWork()
        lock, self.read_only_because = hold(file)
        self._locks = [] if lock is None else [lock]
        self.read_only_because = only_look_because or self.read_only_because
        try:
            with told_plainly(self.path):
                self._open()
                self._migrate(file.new)
            self._file = identity(self.path)
        except BaseException:
            self._release()
            raise

    def _open(self) -> None:
        """Open the file; to be looked at only where it holds what no ledger holds, or where it is
        written in by another name.
        """
        if self.read_only_because is None:
            self._engine = _engine(self.path, read_only=False, at_work=self._at_work)
            self.read_only_because = self._why_only_look()
            if self.read_only_because is None:
                return
            self._engine.dispose()
            self._release()
        self._engine = _engine(self.path, read_only=True, at_work=self._at_work)

    def _why_only_look(self) -> Trouble | None:
        try:
            handle, held = claim(self.path)
        except OSError as error:
            return LedgerFault(
                TroubleCode.LEDGER_OUT_OF_REACH, path=str(self.path), system=error.strerror or ""
            )
        if handle is None:
            return held
        self._locks.append(handle)
        with self._engine.connect() as connection:
            name = foreign_part(_driver(connection))
        if name:
            return LedgerFault(TroubleCode.LEDGER_FOREIGN_PART, path=str(self.path), name=name)
        return None

    def _migrate(self, new: bool) -> None:
        """Bring the tables up to date. Opening rolls back what a killed writer had not saved."""
        with self._engine.connect() as connection:
            driver = _driver(connection)
            version = schema_version(driver)
            if version == NEWEST:
                if missing := tables_missing(driver):
                    log.warning("%s lacks %s", self.path, missing)
                    raise LedgerFault(TroubleCode.LEDGER_DAMAGED, path=str(self.path))
                return
            if version.isdigit() and int(version) > int(NEWEST):
                raise LedgerFault(TroubleCode.LEDGER_NEWER, path=str(self.path))
            if version not in KNOWN and (version or tables_missing(driver) != TABLES):
                raise LedgerFault(TroubleCode.LEDGER_DAMAGED, path=str(self.path))
            if self.read_only_because:
                raise LedgerFault(TroubleCode.LEDGER_OLD_READ_ONLY, path=str(self.path))
            if not new and version:
                backup = beside(self.path, f".before-{NEWEST}")
                copy_whole(self.path, backup)
                log.info("%s goes from %s to %s; copy: %s", self.path, version, NEWEST, backup)
            elif not version:
                connection.exec_driver_sql(f"PRAGMA application_id = {APPLICATION_ID}")
            bring_up_to_date(connection)

    @contextmanager
    def session(self) -> Iterator[Session]:
        """A transaction: saved as a whole when the block ends well, otherwise not at all.

        Raises:
            LedgerFault: it could not be saved; nothing of it is. Or the file is no longer the one
                that was opened, or the ledger has been closed.
        """
        with self._at_work.begun(self.path), told_plainly(self.path):
            self._refuse_another_file()
            with Session(self._engine) as session, session.begin():
                yield session

    def _refuse_another_file(self) -> None:
        if identity(self.path) != self._file:
            raise LedgerFault(TroubleCode.LEDGER_REPLACED, path=str(self.path))

    def close(self, seconds: float = CLOSE_WITHIN_SECONDS) -> None:
        """Let go of the file as soon as nobody is at work in it, and let nobody begin any more.

        What takes longer than so many seconds is broken off: nothing of it is saved then. Whoever
        is in the middle of arithmetic meets that at their next statement, and lets go of the file
        themselves.
        """
        if not self._at_work.end(seconds, self._let_go):
            log.warning("%s: a transaction was broken off because it took too long", self.path)

    def _let_go(self) -> None:
        self._engine.dispose()
        self._release()

    def _release(self) -> None:
        while self._locks:
            os.close(self._locks.pop())

    def __enter__(self) -> Self:
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        traceback: TracebackType | None,
    ) -> None:
        self.close()


class _AtWork:
    """Who is at work in a ledger: it is let go of when they are done."""

    def __init__(self) -> None:
        self._changed = threading.Condition()
        self._transactions = 0
        self._over = False
        self._then: Callable[[], None] | None = None
        self.broken_off = False
        """No statement is run any more, and nothing saved."""
        self.connections: set[sqlite3.Connection] = set()

    @contextmanager
    def begun(self, path: Path) -> Iterator[None]:
        """A transaction. Raises LedgerFault where the ledger has been closed."""
        with self._changed:
            if self._over:
                raise LedgerFault(TroubleCode.LEDGER_CLOSED, path=str(path))
            self._transactions += 1
        try:
            yield
        finally:
            with self._changed:
                self._transactions -= 1
                self._changed.notify_all()
                self._let_go_when_over()

    def end(self, seconds: float, then: Callable[[], None]) -> bool:
        """Let nobody begin, and wait for those at work; False where they had to be broken off.

        ``then`` is done as soon as nobody is at work: before this returns, where those broken off
        end at once.
        """
        with self._changed:
            if self._over:
                return not self.broken_off
            self._over, self._then = True, then
            whole = self._changed.wait_for(self._nobody, seconds)
            self.broken_off = not whole
            deadline = time.monotonic() + BREAK_OFF_WITHIN_SECONDS
            while self._transactions and time.monotonic() < deadline:
                for connection in tuple(self.connections):
                    connection.interrupt()
                self._changed.wait(LOOK_AGAIN_SECONDS)
            self._let_go_when_over()
            return whole

    def _let_go_when_over(self) -> None:
        if self._over and not self._transactions and self._then is not None:
            then, self._then = self._then, None
            then()

    def _nobody(self) -> bool:
        return self._transactions == 0


def _driver(connection: Connection) -> sqlite3.Connection:
    driver = connection.connection.driver_connection
    assert isinstance(driver, sqlite3.Connection)
    return driver


def _engine(path: Path, read_only: bool, at_work: _AtWork) -> Engine:
    if not read_only and not path.exists():
        os.close(open_fresh(path))
    mode = "ro" if read_only else "rw"
    address = f"{path.absolute().as_uri()}?mode={mode}"

    def connect() -> sqlite3.Connection:
        return sqlite3.connect(
            address,
            uri=True,
            timeout=BUSY_MILLISECONDS / 1000,
            check_same_thread=False,
            isolation_level=None,
        )

    engine = create_engine("sqlite://", creator=connect, poolclass=NullPool)

    @event.listens_for(engine, "connect")
    def _prepare(connection: sqlite3.Connection, _record: object) -> None:
        at_work.connections.add(connection)
        connection.execute("PRAGMA foreign_keys = ON")
        connection.execute("PRAGMA trusted_schema = OFF")
        if not read_only:
            connection.execute("PRAGMA synchronous = FULL")

    @event.listens_for(engine, "close")
    def _forget(connection: sqlite3.Connection, _record: object) -> None:
        at_work.connections.discard(connection)

    @event.listens_for(engine, "before_cursor_execute")
    @event.listens_for(engine, "commit")
    def _refuse_when_broken_off(*_what: object) -> None:
        if at_work.broken_off:
            raise LedgerFault(TroubleCode.LEDGER_CLOSED, path=str(path))

    @event.listens_for(engine, "begin")
    def _begin(connection: Connection) -> None:
        # The driver by itself would leave changes of tables outside the transaction.
        connection.exec_driver_sql("BEGIN")

    return engine
