"""Errors of a ledger's database, by its own codes."""

import logging
import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager

from sqlalchemy.exc import DBAPIError

from plucky_ledger.core.values.trouble import Trouble, TroubleCode

log = logging.getLogger(__name__)
PRIMARY = 0xFF
"""Mask of the primary part of an extended error code."""
_CODES = {
    sqlite3.SQLITE_FULL: TroubleCode.LEDGER_DISK_FULL,
    sqlite3.SQLITE_READONLY: TroubleCode.LEDGER_READ_ONLY,
    sqlite3.SQLITE_PERM: TroubleCode.LEDGER_READ_ONLY,
    sqlite3.SQLITE_BUSY: TroubleCode.LEDGER_BUSY,
    sqlite3.SQLITE_LOCKED: TroubleCode.LEDGER_BUSY,
    sqlite3.SQLITE_NOTADB: TroubleCode.LEDGER_DAMAGED,
    sqlite3.SQLITE_CORRUPT: TroubleCode.LEDGER_DAMAGED,
    sqlite3.SQLITE_ERROR: TroubleCode.LEDGER_DAMAGED,  # our statements fit sound tables
    sqlite3.SQLITE_FORMAT: TroubleCode.LEDGER_DAMAGED,
    sqlite3.SQLITE_TOOBIG: TroubleCode.LEDGER_DAMAGED,
    sqlite3.SQLITE_CANTOPEN: TroubleCode.LEDGER_NOT_OPENED,
    sqlite3.SQLITE_IOERR: TroubleCode.LEDGER_NOT_OPENED,
}
_EXTENDED_CODES = {
    sqlite3.SQLITE_READONLY_ROLLBACK: TroubleCode.LEDGER_CUT_SHORT_READ_ONLY,
    sqlite3.SQLITE_READONLY_RECOVERY: TroubleCode.LEDGER_CUT_SHORT_READ_ONLY,
}
"""A save that was cut short has to be undone first, and that cannot be written."""


class LedgerFault(Trouble):
    """The ledger cannot be opened or written."""


@contextmanager
def told_plainly(name: str) -> Iterator[None]:
    """Turn database errors that come from outside into a ``LedgerFault`` that names the ledger;
    bugs pass through.
    """
    try:
        yield
    except LedgerFault as fault:
        raise fault.with_facts(path=name) from fault
    except (MemoryError, UnicodeDecodeError) as error:  # a length or a message that was damaged
        raise LedgerFault(TroubleCode.LEDGER_DAMAGED, path=name) from error
    except DBAPIError as error:
        _raise_fault(error.orig, name)
        raise
    except Exception as error:
        _raise_fault(error, name)
        raise


def _raise_fault(error: BaseException | None, name: str) -> None:
    """Raise the fault this error stands for; return where it is a bug of ours."""
    code = None
    if isinstance(error, sqlite3.Error):
        code = _of_file(error)
    elif type(error).__module__.partition(".")[0] == "psycopg":
        code = _of_server(error)
    if code is not None:
        log.warning("%s: %s", name, error)
        system = str(error).strip().partition("\n")[0]
        raise LedgerFault(code, path=name, system=system) from error


def _of_file(error: sqlite3.Error) -> TroubleCode | None:
    number = getattr(error, "sqlite_errorcode", 0)
    if isinstance(error, sqlite3.OperationalError) and not hasattr(error, "sqlite_errorcode"):
        return TroubleCode.LEDGER_DAMAGED  # the driver's own: a text that is none
    return _EXTENDED_CODES.get(number) or _CODES.get(number & PRIMARY)


def _of_server(error: object) -> TroubleCode | None:
    """By the state that the server tells (PostgreSQL, "Error Codes"), whole or its class; without
    one it was not reached.
    """
    state = getattr(error, "sqlstate", None)
    if state is None:
        connection, kind = getattr(error, "pgconn", None), type(error).__name__
        if getattr(connection, "needs_password", False):
            return TroubleCode.LEDGER_PASSWORD_WANTED
        if _ANSWERED in str(error) and not any(words in str(error) for words in _NOT_NOW):
            return TroubleCode.LEDGER_SERVER_REFUSED
        if any(words in str(error) for words in _NOT_PROVEN):
            return TroubleCode.LEDGER_SERVER_NOT_PROVEN
        return {
            "OperationalError": TroubleCode.LEDGER_SERVER_GONE,
            "ConnectionTimeout": TroubleCode.LEDGER_SERVER_GONE,
            "DataError": TroubleCode.LEDGER_NOT_TAKEN,
        }.get(kind)
    return _STATES.get(state) or _STATES.get(state[:2])


_ANSWERED = "failed: FATAL"
"""Stands in what is said where a server was reached and let nobody in."""
_NOT_PROVEN = ("certificate", "does not support SSL")
"""Stands in what is said where what answered is not the server that the address asks for, or does
not encrypt as it asks: that does not get better by waiting.
"""
_NOT_NOW = ("starting up", "shutting down", "in recovery mode")
_STATES = {
    "08": TroubleCode.LEDGER_SERVER_GONE,
    "57P01": TroubleCode.LEDGER_SERVER_GONE,
    "57P02": TroubleCode.LEDGER_SERVER_GONE,
    "57P03": TroubleCode.LEDGER_SERVER_GONE,
    "57014": TroubleCode.LEDGER_CLOSED,  # broken off as it was closed
    "28": TroubleCode.LEDGER_SERVER_REFUSED,
    "3D": TroubleCode.LEDGER_SERVER_REFUSED,
    "23505": TroubleCode.LEDGER_BUSY,  # another bench has written the same just now
    "40001": TroubleCode.LEDGER_BUSY,
    "40P01": TroubleCode.LEDGER_BUSY,
    "55P03": TroubleCode.LEDGER_BUSY,
    "42501": TroubleCode.LEDGER_NOT_ALLOWED,
    "25006": TroubleCode.LEDGER_READ_ONLY,
    "53100": TroubleCode.LEDGER_DISK_FULL,
    "53": TroubleCode.LEDGER_SERVER_REFUSED,
    "22": TroubleCode.LEDGER_NOT_TAKEN,
}
