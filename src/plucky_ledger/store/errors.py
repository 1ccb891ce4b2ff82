"""Errors of a ledger file, by the database's own codes."""

import logging
import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

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
def told_plainly(path: Path) -> Iterator[None]:
    """Turn database errors that come from outside into a ``LedgerFault``; bugs pass through."""
    try:
        yield
    except LedgerFault as fault:
        raise fault.with_facts(path=str(path)) from fault
    except (MemoryError, UnicodeDecodeError) as error:  # a length or a message that was damaged
        raise LedgerFault(TroubleCode.LEDGER_DAMAGED, path=str(path)) from error
    except DBAPIError as error:
        if isinstance(error.orig, sqlite3.Error):
            _raise_fault(error.orig, path)
        raise
    except sqlite3.Error as error:
        _raise_fault(error, path)
        raise


def _raise_fault(error: sqlite3.Error, path: Path) -> None:
    """Raise the fault this error stands for; return where it is a bug of ours."""
    number = getattr(error, "sqlite_errorcode", 0)
    code = _EXTENDED_CODES.get(number) or _CODES.get(number & PRIMARY)
    if isinstance(error, sqlite3.OperationalError) and not hasattr(error, "sqlite_errorcode"):
        code = TroubleCode.LEDGER_DAMAGED  # the driver's own: a text that is none
    if code is not None:
        log.warning("%s: %s (%s)", path, error, getattr(error, "sqlite_errorname", ""))
        raise LedgerFault(code, path=str(path)) from error
