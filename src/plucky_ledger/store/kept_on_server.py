"""A ledger in a database of a server: many benches write in it, each in a job of its own.

PostgreSQL, "Explicit Locking", "Advisory Locks"; "NOTIFY"; "Transaction Isolation".
"""

import logging
import threading
from collections.abc import Callable, Iterator
from contextlib import AbstractContextManager, ExitStack, contextmanager
from typing import TYPE_CHECKING, Any

from sqlalchemy import Connection, Engine, create_engine, event, make_url
from sqlalchemy.exc import NoSuchModuleError

from plucky_ledger.core.values.trouble import Refused, Trouble, TroubleCode
from plucky_ledger.store.address import Address
from plucky_ledger.store.at_work import AtWork
from plucky_ledger.store.errors import LedgerFault, told_plainly
from plucky_ledger.store.migrating import NEWEST
from plucky_ledger.store.server_locks import PRESENT, Locks
from plucky_ledger.store.server_secret import secret_of

if TYPE_CHECKING:
    from psycopg import Connection as Driver

SCHEMA = "plucky_ledger"
CHANNEL = "plucky_ledger"
CONNECT_WITHIN_SECONDS = 8
POOLED, MORE = 3, 5
LISTENS_ANEW_SECONDS = 2.0
LOOK_UP_SECONDS = 0.3
"""How often a listener looks whether it is to end."""
log = logging.getLogger(__name__)


class OnServer:
    """A server's ledger, opened.

    Raises:
        LedgerFault: the server is out of reach or refuses, or there is no ledger, or one of
            another version.
    """

    keeps_all_steps = True

    def __init__(
        self, address: Address, who: str, at_work: AtWork, only_look_because: Trouble | None
    ) -> None:
        self._address = address
        self._who = who
        self._over = threading.Event()
        self._listener: threading.Thread | None = None
        self.engine = engine_of(address, who, at_work)
        self._locks = Locks(lambda: connected(address, who), who)
        try:
            with self.told_plainly():
                self._locks.share(PRESENT)
                with self.engine.connect() as connection:
                    _refuse_other_versions(connection, address)
                    may_only_read = _why_only_read(connection)
        except BaseException:
            self.engine.dispose()
            self.release()
            raise
        self.read_only_because = only_look_because or may_only_read

    def told_plainly(self) -> AbstractContextManager[None]:
        return told_plainly(self._address.text)

    def refuse_another(self) -> None:
        """A database keeps its name."""

    @contextmanager
    def held(self, job: int | None) -> Iterator[None]:
        with ExitStack() as stack:
            with self.told_plainly():
                stack.enter_context(self._locks.held(job))
            yield

    def hold(self, job: int) -> None:
        """Have a job to oneself until it is let go of, or the connection ends. Raises LedgerFault
        where another bench has it.
        """
        with self.told_plainly():
            self._locks.hold(job)

    def let_go(self, job: int) -> None:
        """Let others write in a job, and tell them."""
        self._locks.let_go(job, self.tell(job))

    def tell(self, job: int | None) -> str:
        return f"SELECT pg_notify('{CHANNEL}', '{self._locks.pid}:{job or 0}')"

    def listen(self, changed: Callable[[int | None], None]) -> None:
        self._listener = threading.Thread(
            target=self._listen, args=(changed,), name="listener", daemon=True
        )
        self._listener.start()

    def _listen(self, changed: Callable[[int | None], None]) -> None:
        """Until this ledger is closed; the server may go meanwhile."""
        import psycopg

        while not self._over.is_set():
            try:
                with connected(self._address, self._who) as connection:
                    connection.execute(f"LISTEN {CHANNEL}")
                    changed(None)  # what was written before it listened
                    while not self._over.is_set():
                        for told in connection.notifies(timeout=LOOK_UP_SECONDS):
                            bench, _, job = told.payload.partition(":")
                            if bench != str(self._locks.pid):
                                changed(int(job) or None)
            except (psycopg.Error, OSError) as error:
                log.info("%s is not listened to just now: %s", self._address.text, error)
            self._over.wait(LISTENS_ANEW_SECONDS)

    def release(self) -> None:
        self._over.set()
        self._locks.close()
        listener, self._listener = self._listener, None
        if listener is not None and listener is not threading.current_thread():
            listener.join(2 * LOOK_UP_SECONDS)


def connected(address: Address, who: str) -> "Driver[Any]":
    """A connection of its own to a server's ledger, each statement a transaction."""
    import psycopg

    return psycopg.connect(
        address.text, autocommit=True, password=secret_of(address), **_settings(who)
    )


def _settings(who: str) -> dict[str, Any]:
    return {
        "application_name": f"plucky-ledger {who}"[:63],
        "connect_timeout": CONNECT_WITHIN_SECONDS,
        "options": f"-c search_path={SCHEMA}",
        "keepalives_idle": 10,
        "keepalives_interval": 3,
        "keepalives_count": 3,
        "tcp_user_timeout": 20_000,
    }


def engine_of(address: Address, who: str, at_work: AtWork) -> Engine:
    """What transactions are begun with: each sees the ledger as it was at one moment."""
    url = make_url(address.text).set(drivername="postgresql+psycopg")
    try:
        engine = create_engine(
            url,
            isolation_level="REPEATABLE READ",
            connect_args=_settings(who),
            pool_size=POOLED,
            max_overflow=MORE,
            pool_pre_ping=True,
        )
    except (ModuleNotFoundError, NoSuchModuleError) as error:
        raise Refused(TroubleCode.PACKAGE_MISSING, package="psycopg", extra="workshop") from error

    @event.listens_for(engine, "do_connect")
    def _with_secret(
        _dialect: object, _record: object, _arguments: object, named: dict[str, object]
    ) -> None:
        secret = secret_of(address)
        if secret is not None:
            named["password"] = secret

    @event.listens_for(engine, "checkout")
    def _at_work(connection: "Driver[Any]", _record: object, _proxy: object) -> None:
        at_work.interrupts[id(connection)] = connection.cancel

    @event.listens_for(engine, "checkin")
    def _at_rest(connection: "Driver[Any]", _record: object) -> None:
        at_work.interrupts.pop(id(connection), None)

    event.listen(engine, "before_cursor_execute", at_work.refuse_when_broken_off)
    event.listen(engine, "commit", at_work.refuse_when_broken_off)
    return engine


def version_on(connection: Connection) -> str:
    """Name of the newest migration the database has seen; empty where there is no ledger in it."""
    there = connection.exec_driver_sql(
        f"SELECT to_regclass('{SCHEMA}.alembic_version') IS NOT NULL"
    ).scalar()
    if not there:
        return ""
    found = connection.exec_driver_sql(f"SELECT version_num FROM {SCHEMA}.alembic_version")  # noqa: S608
    return str(found.scalar() or "")


def _refuse_other_versions(connection: Connection, address: Address) -> None:
    version = version_on(connection)
    if not version:
        raise LedgerFault(TroubleCode.LEDGER_NOT_SET_UP, path=address.text)
    if version > NEWEST:
        raise LedgerFault(TroubleCode.LEDGER_NEWER, path=address.text)
    if version < NEWEST:
        raise LedgerFault(TroubleCode.LEDGER_OLD_ON_SERVER, path=address.text)


def _why_only_read(connection: Connection) -> Trouble | None:
    """Why this user, or this server, lets it only be looked at."""
    may_write, replica = connection.exec_driver_sql(
        f"SELECT has_table_privilege('{SCHEMA}.steps', 'INSERT'), pg_is_in_recovery()"
    ).one()
    return None if may_write and not replica else LedgerFault(TroubleCode.LEDGER_FOR_READERS)
