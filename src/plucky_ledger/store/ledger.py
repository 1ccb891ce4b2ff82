"""Opening a ledger: created, checked, backed up before a migration, and held by one writer."""

import fcntl
import logging
import os
import platform
import shutil
import sqlite3
from collections import Counter
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from types import TracebackType
from typing import Self

from sqlalchemy import Connection, Engine, create_engine, event, make_url
from sqlalchemy.exc import ArgumentError
from sqlalchemy.orm import Session
from sqlalchemy.pool import NullPool

from plucky_ledger.core.trouble import Trouble, TroubleCode
from plucky_ledger.linux.users import give_to_owner_of, user_name
from plucky_ledger.store.errors import LedgerFault, told_plainly
from plucky_ledger.store.schema import NEWEST, bring_up_to_date

APPLICATION_ID = 0x504C4C47
"""Written into the file so that a foreign database is recognised."""
BUSY_MILLISECONDS = 5000
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

    The first to open it writes; whoever opens it while it is held gets it read-only, and
    ``read_only_because`` says so. Writing goes through ``session`` in one transaction each.

    Raises:
        LedgerFault: not a ledger, of a newer version, damaged, or out of reach. Untouched then.
    """

    def __init__(self, address: str | Path) -> None:
        path = self.path = file_of(address)
        self.read_only_because: Trouble | None = None
        self.author, self.bench = user_name(), platform.node()
        """Who writes in it, and at which PC of the workshop."""
        self.written: Counter[int | None] = Counter()
        """How often each job was written in since it was opened; None for the whole workshop."""
        self._lock: int | None = None
        new = _check(path)
        self._hold(new)
        try:
            with told_plainly(path):
                self._engine = _engine(path, read_only=self.read_only_because is not None)
                self._migrate(new)
        except BaseException:
            self._release()
            raise

    def _hold(self, new: bool) -> None:
        """Become the one writer, or note why not."""
        try:
            self._lock = os.open(_beside(self.path, ".lock"), os.O_RDWR | os.O_CREAT, 0o600)
            give_to_owner_of(self.path.parent, _beside(self.path, ".lock"))
            fcntl.flock(self._lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
            if not new and not os.access(self.path, os.W_OK):
                raise PermissionError
        except BlockingIOError:
            self._release()
            self.read_only_because = LedgerFault(TroubleCode.LEDGER_IN_OTHER_WINDOW)
        except OSError as error:
            self._release()
            if new:
                raise LedgerFault(
                    TroubleCode.LEDGER_NOT_BEGUN,
                    folder=str(self.path.parent),
                    system=error.strerror or "",
                ) from error
            self.read_only_because = LedgerFault(TroubleCode.LEDGER_READ_ONLY, path=str(self.path))

    def _migrate(self, new: bool) -> None:
        with self._engine.connect() as connection:
            version = schema_version(self.path)
            if not new and version == NEWEST:
                return
            if self.read_only_because:
                raise LedgerFault(TroubleCode.LEDGER_OLD_READ_ONLY, path=str(self.path))
            if not new:
                backup = _beside(self.path, f".before-{NEWEST}")
                shutil.copy2(self.path, backup)
                log.info("%s goes from %s to %s; copy: %s", self.path, version, NEWEST, backup)
            else:
                connection.exec_driver_sql(f"PRAGMA application_id = {APPLICATION_ID}")
            bring_up_to_date(connection)

    @contextmanager
    def session(self) -> Iterator[Session]:
        """A transaction: saved as a whole when the block ends well, otherwise not at all.

        Raises:
            LedgerFault: it could not be saved; nothing of it is.
        """
        with told_plainly(self.path), Session(self._engine) as session, session.begin():
            yield session

    def close(self) -> None:
        """Let go of the file."""
        self._engine.dispose()
        self._release()

    def _release(self) -> None:
        if self._lock is not None:
            os.close(self._lock)
            self._lock = None

    def __enter__(self) -> Self:
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        traceback: TracebackType | None,
    ) -> None:
        self.close()


def _beside(path: Path, ending: str) -> Path:
    return path.with_name(path.name + ending)


def _check(path: Path) -> bool:
    """Whether a new ledger has to be made; refuses what is none, without touching it."""
    try:
        if not path.exists():
            path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
            return True
        if path.stat().st_size == 0:
            return True
    except OSError as error:
        raise LedgerFault(
            TroubleCode.LEDGER_OUT_OF_REACH, path=str(path), system=error.strerror or ""
        ) from error
    with told_plainly(path):
        connection = sqlite3.connect(f"{path.absolute().as_uri()}?mode=ro", uri=True)
        try:
            application = connection.execute("PRAGMA application_id").fetchone()[0]
        finally:
            connection.close()
    if application != APPLICATION_ID:
        raise LedgerFault(TroubleCode.LEDGER_FOREIGN, path=str(path))
    if schema_version(path) not in {"", NEWEST} and not _knows(schema_version(path)):
        raise LedgerFault(TroubleCode.LEDGER_NEWER, path=str(path))
    return False


def _knows(version: str) -> bool:
    return version.isdigit() and int(version) <= int(NEWEST)


def schema_version(path: Path) -> str:
    """Name of the newest migration the file has seen; empty when none."""
    connection = sqlite3.connect(f"{path.absolute().as_uri()}?mode=ro", uri=True)
    try:
        row = connection.execute("SELECT version_num FROM alembic_version").fetchone()
    except sqlite3.OperationalError:
        return ""
    finally:
        connection.close()
    return str(row[0]) if row else ""


def _engine(path: Path, read_only: bool) -> Engine:
    if not read_only and not path.exists():
        os.close(os.open(path, os.O_CREAT | os.O_WRONLY, 0o600))
        give_to_owner_of(path.parent, path)
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
        connection.execute("PRAGMA foreign_keys = ON")
        if not read_only:
            connection.execute("PRAGMA synchronous = FULL")

    @event.listens_for(engine, "begin")
    def _begin(connection: Connection) -> None:
        # The driver by itself would leave changes of tables outside the transaction.
        connection.exec_driver_sql("BEGIN")

    return engine
