"""What a PC has gone through over months, from a recording."""

from collections.abc import Iterator
from datetime import UTC, date, datetime

from plucky_ledger.core.pc.history import PackageAction, PackageEvent, PowerLog
from plucky_ledger.recording.history import HistoryLine, PackageRow


def history_from(line: HistoryLine) -> tuple[PackageEvent, ...]:
    """The history as the core knows it; what has no date, or no known action, is passed over."""
    return tuple(event for row in line.packages for event in _event(row))


def _event(row: PackageRow) -> Iterator[PackageEvent]:
    try:
        day, action = date.fromisoformat(row.day), PackageAction(row.action)
    except ValueError:
        return
    yield PackageEvent(day, action, row.name, row.version)


def power_log_from(line: HistoryLine) -> PowerLog:
    """Starts and wakes as the core knows them."""
    starts, wakes = (
        tuple(datetime.fromtimestamp(seconds, UTC) for seconds in sorted(told))
        for told in (line.starts, line.wakes)
    )
    return PowerLog(starts, wakes)
