"""The wall clock."""

from datetime import UTC, date, datetime, time, timedelta


def now() -> datetime:
    """The wall clock, in UTC."""
    return datetime.now(UTC)


def next_time(hour: int, minute: int) -> datetime:
    """When this PC's clock shows that next, by local time.

    A night in which clocks are changed for summer time or back is an hour shorter or longer.
    """
    here = now()
    today = here.astimezone().date()
    days = (today + timedelta(days=more) for more in range(3))
    return next(at for day in days if (at := _local(day, time(hour, minute))) > here)


def midnight() -> datetime:
    """When today began by this PC's clock."""
    return _local(now().astimezone().date(), time())


def _local(day: date, at: time) -> datetime:
    """An instant by the local time of that very day: the earlier, where clocks show that twice, or
    leave it out and it is read by either time.
    """
    shown = datetime.combine(day, at)
    return min(shown.replace(fold=fold).astimezone() for fold in (0, 1))
