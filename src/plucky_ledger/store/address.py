"""Where a ledger lies: a file, or a database of a server that a workshop shares.

URLs are those of the database itself: PostgreSQL, "Connection URIs" (RFC 3986).
"""

from dataclasses import dataclass
from hashlib import sha256
from pathlib import Path
from urllib.parse import parse_qsl, unquote, urlencode, urlsplit

from plucky_ledger.core.values.trouble import TroubleCode
from plucky_ledger.store.errors import LedgerFault

SERVER = "postgresql"
_OTHER_NAMES = frozenset({"postgres", "postgresql+psycopg"})
_SECRET = frozenset({"password", "sslpassword"})
_FOLDER = "workshops"
"""Beside this user's own ledger: what a bench keeps of ledgers that lie on servers."""


@dataclass(frozen=True)
class Address:
    """Where a ledger lies."""

    text: str
    """As it is written: a path, or a URL without a password."""
    file: Path | None
    """None for a database of a server."""

    @property
    def local(self) -> Path:
        """The file; for a server's ledger a name on this PC that stands for it alone. What a bench
        keeps of a ledger lies beside it.
        """
        if self.file is not None:
            return self.file
        from platformdirs import user_data_path

        name = sha256(self.text.encode()).hexdigest()[:16]
        return user_data_path("plucky-ledger") / _FOLDER / name / "workshop.ledger"

    @property
    def is_missing(self) -> bool:
        """Whether there is certainly no ledger; a server has to be asked."""
        return self.file is not None and not self.file.exists()

    @property
    def name(self) -> str:
        """What it is called in few words."""
        if self.file is not None:
            return self.file.name
        parts = urlsplit(self.text)
        return f"{parts.path.lstrip('/')} – {parts.hostname}" if parts.hostname else parts.path[1:]


def address_of(named: "str | Path | Address") -> Address:
    """The address that is meant: a path, or a URL of a file or a server's database.

    Raises:
        LedgerFault: it is of a kind that no ledger is kept in, or there is a password in it.
    """
    if isinstance(named, Address):
        return named
    if isinstance(named, Path) or "://" not in named:
        return Address(str(named), Path(named))
    scheme, _, rest = named.partition("://")
    if scheme in {"sqlite", "file"} and rest.lstrip("/"):
        path = Path(rest.removeprefix("/") if scheme == "sqlite" else rest)
        return Address(str(path), path)
    if scheme != SERVER and scheme not in _OTHER_NAMES:
        raise LedgerFault(TroubleCode.LEDGER_KIND_UNKNOWN, address=without_password(named))
    return Address(_server(named), None)


def _server(named: str) -> str:
    try:
        parts = urlsplit(named)
        database, port = unquote(parts.path.lstrip("/")), parts.port
    except ValueError as error:
        raise LedgerFault(TroubleCode.LEDGER_KIND_UNKNOWN, address=SERVER) from error
    options = parse_qsl(parts.query, keep_blank_values=True)
    if parts.password is not None or any(name in _SECRET for name, _ in options):
        raise LedgerFault(TroubleCode.LEDGER_PASSWORD_SHOWN, address=without_password(named))
    if not database or "/" in database:
        raise LedgerFault(TroubleCode.LEDGER_KIND_UNKNOWN, address=named)
    host = parts.hostname or ""
    host = f"[{host}]" if ":" in host else host
    user = f"{parts.username}@" if parts.username else ""
    place = f"{user}{host}{f':{port}' if port else ''}"
    query = urlencode(sorted(options), safe="/")
    return f"{SERVER}://{place}{parts.path}{'?' if query else ''}{query}"


def without_password(named: str) -> str:
    """A URL as it may be shown."""
    before, scheme, rest = named.partition("://")
    place, slash, path = rest.partition("/")
    secrets, at, host = place.rpartition("@")
    user = secrets.partition(":")[0]
    path = path.partition("?")[0] if any(f"{name}=" in path for name in _SECRET) else path
    return f"{before}{scheme}{user}{at}{host}{slash}{path}"
