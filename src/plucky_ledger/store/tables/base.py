"""What all tables share."""

from uuid import uuid4

from sqlalchemy.orm import DeclarativeBase


class Base(DeclarativeBase):
    """Base of all tables."""


def new_uuid() -> str:
    """A name that is the same in every ledger."""
    return str(uuid4())
