"""Setting a server's ledger up for many benches, and bringing it up to date.

Whoever sets it up owns it. Two groups of users are made: benches, which write but cannot remove or
change what was done, and readers. PostgreSQL, "Privileges", "Role Membership".
"""

import logging
import os
import shutil
import subprocess
import time
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any

from sqlalchemy import Connection

from plucky_ledger.core.values.trouble import Refused, Trouble, TroubleCode
from plucky_ledger.store.address import Address
from plucky_ledger.store.at_work import AtWork
from plucky_ledger.store.errors import LedgerFault, told_plainly
from plucky_ledger.store.kept_on_server import SCHEMA, connected, engine_of, version_on
from plucky_ledger.store.ledger_file import TABLES
from plucky_ledger.store.migrating import NEWEST, bring_up_to_date
from plucky_ledger.store.server_locks import PRESENT
from plucky_ledger.store.server_secret import secret_of

if TYPE_CHECKING:
    from psycopg import Connection as Driver

ONLY_ADDED = {
    "steps": "UPDATE (undone, over)",
    "step_images": "",
    "recordings": "UPDATE (more)",
}
"""What benches may add to and neither remove from nor write over, but for what is named."""
NAME_BYTES = 63
"""Of a role (PostgreSQL, "Identifiers")."""
LOOK_AGAIN_SECONDS = 0.5
log = logging.getLogger(__name__)


@dataclass(frozen=True)
class Groups:
    """The groups of users of a ledger."""

    bench: str
    reader: str


def groups_of(database: str) -> Groups:
    """Their names: a server has one list of names for all its databases."""
    return Groups(*(f"{database[: NAME_BYTES - 8]}_{kind}" for kind in ("bench", "reader")))


def set_up(address: Address, who: str) -> Groups:
    """Make the tables and groups of a ledger in an empty database.

    Raises:
        LedgerFault: there is a ledger already, or this user may not.
    """
    with told_plainly(address.text):
        engine = engine_of(address, who, AtWork(address.text))
        try:
            with engine.connect() as connection:
                if version_on(connection):
                    raise LedgerFault(TroubleCode.LEDGER_IS_SET_UP, path=address.text)
                connection.exec_driver_sql(f"CREATE SCHEMA IF NOT EXISTS {SCHEMA}")
                bring_up_to_date(connection)
                groups = _grant(connection)
                connection.commit()
        finally:
            engine.dispose()
    log.info("%s is set up, at %s", address.text, NEWEST)
    return groups


def upgrade(
    address: Address, who: str, dump: Path, waiting: Callable[[tuple[str, ...]], bool]
) -> bool:
    """Bring the tables up to date while nobody else has the ledger open, after a dump of it was
    written; False where there was nothing to do.

    ``waiting`` is told who has it open, every half second until nobody has; it is given up where
    that answers no.

    Raises:
        LedgerFault: this user may not; nothing was changed.
        Trouble: it was given up, or no dump could be written.
    """
    with told_plainly(address.text), connected(address, who) as driver:
        engine = engine_of(address, who, AtWork(address.text))
        try:
            with engine.connect() as connection:
                version = version_on(connection)
                if not version:
                    raise LedgerFault(TroubleCode.LEDGER_NOT_SET_UP, path=address.text)
                if version == NEWEST:
                    return False
                _refuse_who_does_not_own(connection, address)
                connection.rollback()
                _be_alone(driver, waiting)
                dump_into(address, dump)
                bring_up_to_date(connection)
                _grant(connection)
                connection.commit()
        finally:
            engine.dispose()
    log.info("%s goes from %s to %s; dump: %s", address.text, version, NEWEST, dump)
    return True


def dump_into(address: Address, file: Path) -> None:
    """Write the whole ledger into a file, by the server's own dump. Raises Trouble."""
    program = shutil.which("pg_dump")
    if program is None:
        raise Refused(TroubleCode.NO_DUMP_PROGRAM)
    command = [
        program,
        "--format=custom",
        f"--schema={SCHEMA}",
        f"--file={file}",
        f"--dbname={address.text}",
    ]
    secret = secret_of(address)
    environment = {**os.environ, **({"PGPASSWORD": secret} if secret is not None else {})}
    done = subprocess.run(
        command, env=environment, capture_output=True, text=True, check=False, errors="replace"
    )
    if done.returncode:
        file.unlink(missing_ok=True)
        system = done.stderr.strip().partition("\n")[0]
        raise Trouble(TroubleCode.FILE_NOT_WRITTEN, path=str(file), system=system)
    file.chmod(0o600)


def add_user(address: Address, who: str, name: str, password: str, *, reads_only: bool) -> None:
    """Let somebody in, as a bench or as a reader. Raises LedgerFault."""
    from psycopg import sql

    with told_plainly(address.text), connected(address, who) as driver:
        groups = groups_of(driver.info.dbname)
        driver.execute(
            sql.SQL("CREATE ROLE {} LOGIN PASSWORD {} IN ROLE {}").format(
                sql.Identifier(name),
                sql.Literal(_scrambled(driver, name, password)),
                sql.Identifier(groups.reader if reads_only else groups.bench),
            )
        )


def _scrambled(driver: "Driver[Any]", name: str, password: str) -> str:
    """As the server keeps it: the password itself reaches no log of the server's statements."""
    return driver.pgconn.encrypt_password(
        password.encode(), name.encode(), b"scram-sha-256"
    ).decode()


def _refuse_who_does_not_own(connection: Connection, address: Address) -> None:
    owns = connection.exec_driver_sql(
        f"SELECT pg_has_role(nspowner, 'MEMBER') FROM pg_namespace WHERE nspname = '{SCHEMA}'"  # noqa: S608
    ).scalar()
    if not owns:
        raise LedgerFault(TroubleCode.LEDGER_NOT_ALLOWED, path=address.text, system="owner")


def _be_alone(driver: "Driver[Any]", waiting: Callable[[tuple[str, ...]], bool]) -> None:
    """Wait until nobody else has the ledger open; nobody can open it from then on."""
    while True:
        row = driver.execute("SELECT pg_try_advisory_lock(%s, 0)", (PRESENT,)).fetchone()
        if row is not None and row[0]:
            return
        others = driver.execute(
            # Of other users' sessions only the user is told to whoever is no superuser.
            "SELECT coalesce(nullif(application_name, ''), usename) FROM pg_locks "
            "JOIN pg_stat_activity USING (pid) WHERE locktype = 'advisory' AND classid = %s "
            "AND datname = current_database() AND pid <> pg_backend_pid()",
            (PRESENT,),
        ).fetchall()
        names = tuple(str(name).removeprefix("plucky-ledger ") for (name,) in others)
        if not waiting(names):
            raise Refused(TroubleCode.LEDGER_IS_OPEN, who=", ".join(names))
        time.sleep(LOOK_AGAIN_SECONDS)


def _grant(connection: Connection) -> Groups:
    """Make the groups, and give each what it needs."""
    database = str(connection.exec_driver_sql("SELECT current_database()").scalar())
    groups = groups_of(database)
    quote = connection.dialect.identifier_preparer.quote_identifier
    for group in (groups.bench, groups.reader):
        there = connection.exec_driver_sql("SELECT FROM pg_roles WHERE rolname = %s", (group,))
        if there.first() is None:
            connection.exec_driver_sql(f"CREATE ROLE {quote(group)} NOLOGIN")
        connection.exec_driver_sql(f"GRANT USAGE ON SCHEMA {SCHEMA} TO {quote(group)}")
        connection.exec_driver_sql(
            f"GRANT SELECT ON ALL TABLES IN SCHEMA {SCHEMA} TO {quote(group)}"
        )
    bench = quote(groups.bench)
    for table in sorted(TABLES):
        rights = "INSERT, UPDATE, DELETE"
        if table in ONLY_ADDED:
            rights = ", ".join(filter(None, ("INSERT", ONLY_ADDED[table])))
        connection.exec_driver_sql(f"GRANT {rights} ON {SCHEMA}.{table} TO {bench}")
    connection.exec_driver_sql(f"GRANT USAGE ON ALL SEQUENCES IN SCHEMA {SCHEMA} TO {bench}")
    return groups
