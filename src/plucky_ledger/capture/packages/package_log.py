"""Logs of the package managers: what was installed, updated and removed, and when."""

from pathlib import Path

from plucky_ledger.capture.packages.packages import ROOT, managers
from plucky_ledger.recording.history import PackageRow

MOST_EVENTS = 1_500


def package_rows(root: Path = ROOT) -> tuple[PackageRow, ...]:
    """The newest of it, oldest first; nothing where the PC keeps no such log."""
    rows = [row for manager in managers(root) for row in manager.log(MOST_EVENTS)]
    return tuple(sorted(rows, key=lambda row: row.day)[-MOST_EVENTS:])
