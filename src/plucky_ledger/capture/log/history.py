"""What a PC's own logs say of months: packages, when it was started, when it woke from sleep."""

from collections.abc import Callable, Iterator
from pathlib import Path

import msgspec

from plucky_ledger.capture.log.journal_stream import NoJournal
from plucky_ledger.capture.log.start_log import starts
from plucky_ledger.capture.log.system_log import wakes
from plucky_ledger.capture.packages.package_log import package_rows
from plucky_ledger.recording.history import HistoryLine


def history_lines(going_on: Callable[[], bool], root: Path = Path("/")) -> Iterator[HistoryLine]:
    """All of it, told again with what the journal knows, which may take long to answer."""
    history = HistoryLine(package_rows(root), starts(root / "var"))
    if history != HistoryLine():
        yield history
    try:
        woken = wakes(going_on)
    except NoJournal:
        return
    if woken:
        yield msgspec.structs.replace(history, wakes=woken)
