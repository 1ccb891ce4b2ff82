"""Values of the core as they are kept in a column: JSON, with stable codes for enumerations."""

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from datetime import datetime
from typing import Any, TypeVar, cast

import msgspec
from sqlalchemy import Select
from sqlalchemy.orm import Session

from plucky_ledger.core.values.instants import FIRST_YEAR, LAST_YEAR
from plucky_ledger.core.values.trouble import TroubleCode
from plucky_ledger.store.errors import LedgerFault

T = TypeVar("T")


def as_json(value: object) -> str:
    """A value of the core as it is kept in a column."""
    return msgspec.json.encode(value).decode()


@contextmanager
def kept() -> Iterator[None]:
    """What is made of a row. Raises LedgerFault where it cannot be what was written."""
    try:
        yield
    except (msgspec.MsgspecError, ValueError, TypeError, KeyError, OverflowError) as error:
        raise LedgerFault(TroubleCode.LEDGER_DAMAGED, path="") from error  # the ledger knows it


def from_json(text: str, kind: type[T]) -> T:
    """The other way round. Raises LedgerFault where that is not in it."""
    with kept():
        return msgspec.json.decode(text, type=kind)


def instant(text: str) -> datetime:
    """An instant as it is kept in a column. Raises ValueError where it is none."""
    moment = datetime.fromisoformat(text)
    if moment.tzinfo is None or not FIRST_YEAR <= moment.year <= LAST_YEAR:
        raise ValueError(text)
    return moment


def plain_text(value: str) -> str:
    """A text as it is kept in a column. Raises TypeError where it is none."""
    if not isinstance(value, str):
        raise TypeError(type(value).__name__)
    return value


def rows_of(session: Session, _kind: type[T], question: Select[Any]) -> Sequence[T]:
    """Rows of a table that are only looked at: quicker to have than such as can be changed."""
    return cast("Sequence[T]", session.execute(question).all())


def existing(session: Session, kind: type[T], number: int) -> T:
    """A row that has to be there. Raises LedgerFault when it is not."""
    row = session.get(kind, number)
    if row is None:
        raise LedgerFault(TroubleCode.ROW_GONE)
    return row
