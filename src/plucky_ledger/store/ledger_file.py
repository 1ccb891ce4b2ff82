"""The file a ledger lies in: whether it is one, who may open it, and who holds it."""

import errno
import fcntl
import os
import sqlite3
import stat
import struct
from dataclasses import dataclass
from pathlib import Path

from plucky_ledger.core.values.trouble import Trouble, TroubleCode
from plucky_ledger.linux.files import MOST_LINKS, make_folder, opened_folder
from plucky_ledger.linux.users import ADMINISTRATOR, is_administrator, user_name
from plucky_ledger.store.errors import LedgerFault

APPLICATION_ID = 0x504C4C47
"""Written into the file so that a foreign database is recognised."""
TABLES = frozenset(
    {
        "jobs",
        "postings",
        "boots",
        "recordings",
        "decisions",
        "typed_entries",
        "inventories",
        "part_histories",
        "asides",
        "profiles",
        "settings",
        "steps",
        "step_images",
        "job_holders",
        "spines",
        "lessons",
    }
)
_OWN_TABLES = TABLES | {"alembic_version"}
WITHOUT_LOCKS = frozenset({errno.ENOLCK, errno.EOPNOTSUPP, errno.ENOSYS, errno.EINVAL})
"""What a file system says that has no locks."""
_CLAIMED_BYTE = 0x3FFFFFFF
"""Byte of the file that the one writer holds: below those that SQLite locks ("pending byte" and
after), and beyond any ledger."""
_MAGIC = b"SQLite format 3\0"
_HEADER_BYTES = 100
_APPLICATION_AT = 68
"""SQLite file format, "The database header"."""


@dataclass(frozen=True)
class LedgerFile:
    """A file that may be opened as a ledger."""

    path: Path
    new: bool
    """Whether there is nothing in it yet."""


def beside(path: Path, ending: str) -> Path:
    """Another file of a ledger: its lock, its copy before a migration."""
    return path.with_name(path.name + ending)


def look_at(path: Path) -> LedgerFile:
    """Look at a ledger's file without changing it.

    Raises:
        LedgerFault: it is none, out of reach, or the administrator should not open it.
    """
    try:
        # The lock and the copies lie beside the file itself, whichever link leads to it.
        path = _behind_links(path)
        if not path.exists():
            make_folder(path.parent)
            return LedgerFile(path, new=True)
        # Opened without blocking: it may be a pipe.
        descriptor = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
        with os.fdopen(descriptor, "rb") as file:
            if not stat.S_ISREG(os.fstat(descriptor).st_mode):
                raise LedgerFault(TroubleCode.LEDGER_DAMAGED, path=str(path))
            header = file.read(_HEADER_BYTES)
    except OSError as error:
        raise LedgerFault(
            TroubleCode.LEDGER_OUT_OF_REACH, path=str(path), system=error.strerror or ""
        ) from error
    if not header:
        return LedgerFile(path, new=True)
    if not header.startswith(_MAGIC) or len(header) < _HEADER_BYTES:
        raise LedgerFault(TroubleCode.LEDGER_DAMAGED, path=str(path))
    (application,) = struct.unpack_from(">I", header, _APPLICATION_AT)
    if application != APPLICATION_ID and not (application == 0 and _was_cut_short(path)):
        raise LedgerFault(TroubleCode.LEDGER_FOREIGN, path=str(path))
    return LedgerFile(path, new=False)


def _was_cut_short(path: Path) -> bool:
    """Whether somebody was killed while they saved: the next to open it puts that right."""
    journal = beside(path, "-journal")
    return journal.exists() and journal.stat().st_size > 0


def _behind_links(path: Path) -> Path:
    """The file itself, link by link. Raises OSError, and LedgerFault where the administrator would
    open or begin a ledger in somebody else's folder, or follow a link that lies in one.
    """
    path = path.absolute()
    for _ in range(MOST_LINKS):
        if is_administrator():
            _refuse_somebody_elses(path)
        if not path.is_symlink():
            return path
        path = path.parent / os.readlink(path)
    raise OSError(errno.ELOOP, os.strerror(errno.ELOOP), str(path))


def _refuse_somebody_elses(path: Path) -> None:
    """The administrator opens no ledger whose owner could turn it into something else, and begins
    none where somebody else could put another in its place.
    """
    there = [place for place in (path, *path.parents) if os.path.lexists(place)]
    with opened_folder(there[1] if there[0] == path else there[0]):
        pass  # no link on the way is somebody else's
    others = {os.lstat(place).st_uid for place in there} - {ADMINISTRATOR}
    if others:
        raise LedgerFault(
            TroubleCode.LEDGER_OF_ANOTHER, path=str(path), owner=user_name(others.pop())
        )


def hold(file: LedgerFile) -> tuple[int | None, Trouble | None]:
    """Become the one writer: the lock that says so, or why it can only be looked at.

    Raises:
        LedgerFault: a new one cannot be begun.
    """
    lock: int | None = None
    try:
        with opened_folder(file.path.parent) as folder:
            name = beside(file.path, ".lock").name
            flags = os.O_RDWR | os.O_CREAT | os.O_NOFOLLOW | os.O_CLOEXEC
            lock = os.open(name, flags, 0o600, dir_fd=folder)
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        if not file.new and not os.access(file.path, os.W_OK):
            raise PermissionError
    except OSError as error:
        if lock is not None:
            os.close(lock)
        if isinstance(error, BlockingIOError):
            return None, LedgerFault(TroubleCode.LEDGER_IN_OTHER_WINDOW)
        if error.errno in WITHOUT_LOCKS:
            return None, LedgerFault(TroubleCode.LEDGER_WITHOUT_LOCKS, path=str(file.path))
        if file.new:
            raise LedgerFault(
                TroubleCode.LEDGER_NOT_BEGUN,
                folder=str(file.path.parent),
                system=error.strerror or "",
            ) from error
        return None, LedgerFault(TroubleCode.LEDGER_READ_ONLY, path=str(file.path))
    return lock, None


def claim(path: Path) -> tuple[int | None, Trouble | None]:
    """Become the one writer of the file itself, whatever other names it has, and whether or not
    somebody removed the lock beside it: a handle that holds this, or why it can only be looked at.

    Raises OSError where the file cannot be opened.
    """
    handle = os.open(path, os.O_RDWR | os.O_CLOEXEC | os.O_NOFOLLOW)
    lock = struct.pack("hhqqi4x", fcntl.F_WRLCK, os.SEEK_SET, _CLAIMED_BYTE, 1, 0)
    try:
        fcntl.fcntl(handle, fcntl.F_OFD_SETLK, lock)
    except OSError as error:
        os.close(handle)
        if error.errno in (errno.EAGAIN, errno.EACCES):
            return None, LedgerFault(TroubleCode.LEDGER_IN_OTHER_WINDOW)
        return None, LedgerFault(TroubleCode.LEDGER_WITHOUT_LOCKS, path=str(path))
    return handle, None


def identity(path: Path) -> tuple[int, int] | None:
    """What tells this file from another in its place; None where there is none."""
    try:
        status = path.stat()
    except OSError:
        return None
    return status.st_dev, status.st_ino


def tables_missing(connection: sqlite3.Connection) -> set[str]:
    """Tables that a ledger of today has and this one lacks."""
    rows = connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'").fetchall()
    return set(TABLES) - {str(name) for (name,) in rows}


def foreign_part(connection: sqlite3.Connection) -> str:
    """Name of a trigger, view or table that no ledger has; empty where there is none."""
    rows = connection.execute("SELECT type, name FROM sqlite_master").fetchall()
    return next(
        (
            str(name)
            for kind, name in rows
            if kind in {"trigger", "view"}
            or (kind == "table" and name not in _OWN_TABLES and not name.startswith("sqlite_"))
        ),
        "",
    )


def schema_version(connection: sqlite3.Connection) -> str:
    """Name of the newest migration the file has seen; empty when none."""
    try:
        row = connection.execute("SELECT version_num FROM alembic_version").fetchone()
    except sqlite3.OperationalError as error:
        if error.sqlite_errorcode == sqlite3.SQLITE_ERROR:  # no such table
            return ""
        raise
    return str(row[0]) if row else ""
