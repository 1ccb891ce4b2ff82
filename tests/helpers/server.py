"""A database server of one's own: a cluster in a folder, reached by a socket in it alone."""

import os
import pwd
import shutil
import subprocess
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from itertools import count
from pathlib import Path
from typing import Any

import psycopg
import pytest
from psycopg import sql

from plucky_ledger.core.values.trouble import Trouble, TroubleCode
from plucky_ledger.store.address import Address, address_of
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.moving import move
from plucky_ledger.store.server_setup import set_up
from tests.helpers.processes import MARK

OWNER = "owner"
NEEDED = "PLUCKY_LEDGER_SERVER_NEEDED"
_numbers = count()


def programs() -> Path | None:
    """The folder of the server's programs; None where it is not installed."""
    initdb = shutil.which("initdb")
    folders = sorted(Path("/usr/lib/postgresql").glob("*/bin"), key=lambda path: path.parent.name)
    found = [path for path in folders if (path / "initdb").exists()]
    return Path(initdb).parent if initdb else found[-1] if found else None


needs_server = pytest.mark.skipif(
    programs() is None and not os.environ.get(NEEDED), reason="PostgreSQL is not installed"
)


class Server:
    """A running server; its folder is made where there is none. ``address`` makes an empty database
    in it, ``ledger`` one with a ledger.
    """

    def __init__(self, folder: Path, **settings: object) -> None:
        found = programs()
        assert found is not None, "PostgreSQL is not installed: apt install postgresql"
        self._programs, self.folder = found, folder
        self._settings = {"fsync": "off", "max_connections": 200, "port": 5432, **settings}
        self._user = _ordinary_user()
        self._templates: dict[str, str] = {}
        if not folder.exists():
            self._make(folder)
        self.start()

    def _make(self, folder: Path) -> None:
        folder.mkdir(mode=0o700, parents=True)
        if self._user is not None:
            os.chown(folder, self._user, -1)
            self._let_through(folder)
        options = ["--auth", "trust", "--username", OWNER, "--no-sync", "--locale", "C.UTF-8"]
        self._run("initdb", "--pgdata", str(folder / "data"), *options)

    def _let_through(self, folder: Path) -> None:
        """Whoever runs it has to reach its folder."""
        for above in folder.parents:
            with suppress(PermissionError):
                if above.stat().st_uid == os.geteuid() and above != Path("/"):
                    above.chmod(above.stat().st_mode | 0o011)

    def _run(self, program: str, *arguments: str) -> None:
        done = subprocess.run(
            [self._programs / program, *arguments],
            user=self._user,
            cwd=self.folder,
            # It outlives the test that first wants it.
            env={name: value for name, value in os.environ.items() if name != MARK},
            stdout=subprocess.DEVNULL,
            stderr=subprocess.PIPE,
            stdin=subprocess.DEVNULL,
            check=False,
        )
        assert done.returncode == 0, done.stderr.decode(errors="replace")

    def _control(self, *arguments: str) -> None:
        self._run("pg_ctl", "--pgdata", str(self.folder / "data"), *arguments)

    def start(self) -> None:
        """Start it."""
        told = {"unix_socket_directories": self.folder, "listen_addresses": "", **self._settings}
        options = " ".join(f"-c {name}='{value}'" for name, value in told.items())
        log = str(self.folder / "log")
        self._control("--wait", "--log", log, "--options", options, "start")

    def stop(self, how: str = "fast") -> None:
        """Stop it; "immediate" is as a power cut."""
        self._control("--wait", "--mode", how, "stop")

    def kill(self) -> None:
        """End it without a word, as a power cut would."""
        pid = int((self.folder / "data/postmaster.pid").read_text().split()[0])
        os.kill(pid, 9)

    @property
    def port(self) -> int:
        """What its socket is called by, and where it is reached over the network, if it is."""
        return int(str(self._settings["port"]))

    def certify(self, name: str) -> None:
        """Make a certificate for "localhost", and its key."""
        key, certificate = self.folder / f"{name}.key", self.folder / f"{name}.crt"
        command = ["openssl", "req", "-x509", "-newkey", "rsa:2048", "-nodes", "-days", "2"]
        command += ["-keyout", key, "-out", certificate, "-subj", "/CN=localhost"]
        command += ["-addext", "subjectAltName=DNS:localhost"]
        subprocess.run(command, check=True, capture_output=True)
        if self._user is not None:
            os.chown(key, self._user, -1)

    def encrypt_with(self, name: str) -> None:
        """Encrypt from now on, with a certificate that was made."""
        with self.connected() as connection:
            for setting, value in (
                ("ssl_cert_file", str(self.folder / f"{name}.crt")),
                ("ssl_key_file", str(self.folder / f"{name}.key")),
                ("ssl", "on"),
            ):
                connection.execute(
                    sql.SQL("ALTER SYSTEM SET {} = {}").format(sql.SQL(setting), sql.Literal(value))
                )
        self._control("reload")

    @contextmanager
    def asking_for_passwords(self) -> Iterator[None]:
        """Everybody but its owner is asked for a password meanwhile."""
        rules = self.folder / "data/pg_hba.conf"
        before = rules.read_text()
        rules.write_text(f"local all {OWNER} trust\nlocal all all scram-sha-256\n")
        self._control("reload")
        try:
            yield
        finally:
            rules.write_text(before)
            self._control("reload")

    def connected(self, database: str = "postgres", user: str = OWNER) -> "psycopg.Connection[Any]":
        """A connection to one of its databases."""
        return psycopg.connect(
            host=str(self.folder),
            port=self.port,
            dbname=database,
            user=user,
            autocommit=True,
        )

    def named(self, database: str, user: str = OWNER) -> Address:
        """The address of a database."""
        place = f"host={self.folder}&port={self.port}"
        return address_of(f"postgresql://{user}@/{database}?{place}")

    def address(self, template: str = "template1") -> Address:
        """A new database, like another."""
        name = f"ledger{next(_numbers)}"
        with self.connected() as connection:
            connection.execute(
                sql.SQL("CREATE DATABASE {} TEMPLATE {}").format(
                    sql.Identifier(name), sql.Identifier(template)
                )
            )
        return self.named(name)

    def ledger(self) -> Address:
        """A new database with an empty ledger in it."""
        if "" not in self._templates:
            made = self.address()
            set_up(made, "tests")
            self._templates[""] = name_of(made)
        return self.address(self._templates[""])

    def demo(self, recorded: Path) -> Address:
        """A new database with what is in a file."""
        if str(recorded) not in self._templates:
            made = self.ledger()
            only_looked_at = Trouble(TroubleCode.LEDGER_FOR_READERS)
            with Ledger(recorded, only_looked_at) as source, Ledger(made) as target:
                move(source, target)
            self._templates[str(recorded)] = name_of(made)
        return self.address(self._templates[str(recorded)])


@contextmanager
def running_server(**settings: object) -> Iterator[Server]:
    """A server in a folder of its own: the one that all test runs of a user share is closed to
    others, whoever runs the server among them, by each run that starts.
    """
    folder = Path(tempfile.mkdtemp(prefix="plucky-ledger-server-"))
    server = Server(folder / "cluster", **settings)
    try:
        yield server
    finally:
        server.stop("immediate")
        shutil.rmtree(folder)


def name_of(address: Address) -> str:
    """The name of a database."""
    return address.text.partition("@/")[2].partition("?")[0]


def _ordinary_user() -> int | None:
    """It refuses to be run by the administrator."""
    if os.geteuid() != 0:
        return None
    for name in ("postgres", "nobody"):
        with suppress(KeyError):
            return pwd.getpwnam(name).pw_uid
    return None
