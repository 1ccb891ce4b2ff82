"""The wall clock."""

from datetime import UTC, datetime, timedelta


def now() -> datetime:
    """The wall clock, in UTC."""
    return datetime.now(UTC)


def next_time(hour: int, minute: int) -> datetime:
    """When this PC's clock shows that next, by local time."""
    here = now().astimezone()
    at = here.replace(hour=hour, minute=minute, second=0, microsecond=0)
    return at if at > here else at + timedelta(days=1)
