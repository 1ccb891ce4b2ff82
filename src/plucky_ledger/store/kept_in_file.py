"""A ledger in a file: created, checked, copied before a migration, and held by one writer."""

import logging
import os
import sqlite3
from collections.abc import Callable
from contextlib import AbstractContextManager, nullcontext
from pathlib import Path

from sqlalchemy import Connection, Engine, create_engine, event
from sqlalchemy.pool import NullPool

from plucky_ledger.core.values.trouble import Trouble, TroubleCode
from plucky_ledger.linux.files import copy_whole, open_fresh
from plucky_ledger.store.at_work import AtWork
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
log = logging.getLogger(__name__)


class InFile:
    """A ledger's file, opened.

    The first to open it writes; whoever opens it while it is held gets it read-only.

    Raises:
        LedgerFault: not a ledger, of a newer version, damaged, or out of reach. Untouched then.
    """

    keeps_all_steps = False

    def __init__(self, path: Path, at_work: AtWork, only_look_because: Trouble | None) -> None:
        file = look_at(path)
        self.path = file.path
        self._at_work = at_work
        lock, self.read_only_because = hold(file)
        self._locks = [] if lock is None else [lock]
        self.read_only_because = only_look_because or self.read_only_because
        try:
            with self.told_plainly():
                self._open()
                self._migrate(file.new)
            self._file = identity(self.path)
        except BaseException:
            self.release()
            raise

    def told_plainly(self) -> AbstractContextManager[None]:
        return told_plainly(str(self.path))

    def _open(self) -> None:
        """Open the file; to be looked at only where it holds what no ledger holds, or where it is
        written in by another name.
        """
        if self.read_only_because is None:
            self.engine = _engine(self.path, read_only=False, at_work=self._at_work)
            self.read_only_because = self._why_only_look()
            if self.read_only_because is None:
                return
            self.engine.dispose()
            self.release()
        self.engine = _engine(self.path, read_only=True, at_work=self._at_work)

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
        with self.engine.connect() as connection:
            name = foreign_part(_driver(connection))
        if name:
            return LedgerFault(TroubleCode.LEDGER_FOREIGN_PART, path=str(self.path), name=name)
        return None

    def _migrate(self, new: bool) -> None:
        """Bring the tables up to date. Opening rolls back what a killed writer had not saved."""
        with self.engine.connect() as connection:
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

    def refuse_another(self) -> None:
        if identity(self.path) != self._file:
            raise LedgerFault(TroubleCode.LEDGER_REPLACED, path=str(self.path))

    def held(self, _job: int | None) -> AbstractContextManager[None]:
        return nullcontext()  # it is held as a whole

    def hold(self, job: int) -> None:
        """It is held as a whole."""

    def let_go(self, job: int) -> None:
        """It is held as a whole, until it is closed."""

    def tell(self, _job: int | None) -> str:
        return ""

    def listen(self, changed: Callable[[int | None], None]) -> None:
        """Nobody else writes in it."""

    def release(self) -> None:
        while self._locks:
            os.close(self._locks.pop())


def _driver(connection: Connection) -> sqlite3.Connection:
    driver = connection.connection.driver_connection
    assert isinstance(driver, sqlite3.Connection)
    return driver


def _engine(path: Path, read_only: bool, at_work: AtWork) -> Engine:
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
        at_work.interrupts[id(connection)] = connection.interrupt
        connection.execute("PRAGMA foreign_keys = ON")
        connection.execute("PRAGMA trusted_schema = OFF")
        if not read_only:
            connection.execute("PRAGMA synchronous = FULL")

    @event.listens_for(engine, "close")
    def _forget(connection: sqlite3.Connection, _record: object) -> None:
        at_work.interrupts.pop(id(connection), None)

    event.listen(engine, "before_cursor_execute", at_work.refuse_when_broken_off)
    event.listen(engine, "commit", at_work.refuse_when_broken_off)

    @event.listens_for(engine, "begin")
    def _begin(connection: Connection) -> None:
        # The driver by itself would leave changes of tables outside the transaction.
        connection.exec_driver_sql("BEGIN")

    return engine
