"""What can go wrong with a ledger file, as sentences for the technician."""

import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from sqlalchemy.exc import DBAPIError


class LedgerFault(Exception):
    """The ledger cannot be opened or written. The text says what was kept and what to try."""


@contextmanager
def told_plainly(path: Path) -> Iterator[None]:
    """Turn database errors that come from outside into a ``LedgerFault``; bugs pass through."""
    try:
        yield
    except DBAPIError as error:
        sentence = _sentence(str(error.orig).lower(), path)
        if sentence is None:
            raise
        raise LedgerFault(sentence) from error
    except sqlite3.DatabaseError as error:
        sentence = _sentence(str(error).lower(), path)
        if sentence is None:
            raise
        raise LedgerFault(sentence) from error


def _sentence(told: str, path: Path) -> str | None:
    if "disk is full" in told or "database or disk is full" in told:
        return (
            f"The disk with {path} is full. The last step was not saved; everything before it is "
            "kept. Free some space and do it again."
        )
    if "readonly" in told or "read-only" in told:
        return (
            f"{path} may not be written to. Nothing was changed. Open it from a folder you may "
            "write to, or ask for the right to."
        )
    if "locked" in told:
        return (
            f"{path} is busy in another window or program. The step was not saved; try it again "
            "in a moment."
        )
    if "not a database" in told or "malformed" in told or "corrupt" in told:
        return (
            f"{path} is not a ledger, or it is damaged. It was left untouched. Choose another "
            "file, or take the newest backup beside it."
        )
    if "unable to open" in told or "disk i/o error" in told:
        return (
            f"{path} cannot be opened or read. Nothing was changed. Check that its folder exists "
            "and the drive is in order."
        )
    return None
