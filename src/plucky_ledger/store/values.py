"""Values of the core as they are kept in a column: JSON, with stable codes for enumerations."""

from typing import TypeVar

import msgspec
from sqlalchemy.orm import Session

from plucky_ledger.core.trouble import TroubleCode
from plucky_ledger.store.errors import LedgerFault

T = TypeVar("T")


def as_json(value: object) -> str:
    """A value of the core as it is kept in a column."""
    return msgspec.json.encode(value).decode()


def from_json(text: str, kind: type[T]) -> T:
    """The other way round."""
    return msgspec.json.decode(text, type=kind)


def existing(session: Session, kind: type[T], number: int) -> T:
    """A row that has to be there. Raises LedgerFault when it is not."""
    row = session.get(kind, number)
    if row is None:
        raise LedgerFault(TroubleCode.ROW_GONE)
    return row
