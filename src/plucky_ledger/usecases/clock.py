"""The wall clock."""

from datetime import UTC, datetime


def now() -> datetime:
    """The wall clock, in UTC."""
    return datetime.now(UTC)
