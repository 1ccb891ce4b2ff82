"""What the package manager wrote down: what was installed, updated and removed, and when.

Plain files that anybody may read: dpkg's (dpkg(1), /var/log/dpkg.log, rotated and packed), the log
of the manager that libalpm belongs to, and of those that go by rpm dnf's and libzypp's.
"""

import gzip
import re
import zlib
from pathlib import Path

from plucky_ledger.recording.history import PackageRow
from plucky_ledger.recording.lines import bounded

MOST_EVENTS = 1_500
OTHERS = ("pacman.log", "dnf.rpm.log.1", "dnf.rpm.log", "zypp/history")
MOST_BYTES = 8_000_000
"""Read of each file."""
LOGS = ("dpkg.log", "dpkg.log.1", *(f"dpkg.log.{number}.gz" for number in range(2, 14)))
_DPKG = re.compile(
    r"(\d{4}-\d\d-\d\d) \d\d:\d\d:\d\d (install|upgrade|remove) ([^\s:]+)(?::\S+)? (\S+) (\S+)"
)
_ALPM = re.compile(
    r"\[(\d{4}-\d\d-\d\d)[T ][^\]]*\] \[ALPM\] (installed|upgraded|removed) (\S+) \(([^)]*)\)"
)
_DNF = re.compile(
    r"(\d{4}-\d\d-\d\d)T\S+ \S+ (Installed|Upgrade|Erase|Removed): (\S+)-([^\s-]+)-([^\s-]+)\.\w+$"
)
_ZYPP = re.compile(r"(\d{4}-\d\d-\d\d) [\d:]+\|(install|remove ?)\|([^|]+)\|([^|]*)\|")
ACTIONS = {
    "install": "installed",
    "installed": "installed",
    "upgrade": "updated",
    "upgraded": "updated",
    "remove": "removed",
    "removed": "removed",
    "Installed": "installed",
    "Upgrade": "updated",
    "Erase": "removed",
    "Removed": "removed",
}


def package_rows(logs: Path = Path("/var/log")) -> tuple[PackageRow, ...]:
    """The newest of it, oldest first; nothing where the PC keeps no such log."""
    rows: list[PackageRow] = []
    for name in LOGS:
        rows = [*_rows(logs / name), *rows]
        if len(rows) >= MOST_EVENTS:
            break
    for name in OTHERS:
        rows += _rows(logs / name)
    return tuple(sorted(rows, key=lambda row: row.day)[-MOST_EVENTS:])


def _rows(path: Path) -> list[PackageRow]:
    return [row for line in _lines(path) if (row := row_of(line)) is not None]


def row_of(line: str) -> PackageRow | None:
    """What one line tells; None where it is no such line."""
    line = line[:2000]
    if (found := _DPKG.match(line)) is not None:
        day, action, name, old, new = found.groups()
        version = old if action == "remove" else new
    elif (found := _ALPM.match(line)) is not None:
        day, action, name, version = found.groups()
        version = version.rpartition(" ")[2]
    elif (found := _DNF.match(line)) is not None:
        day, action, name, version, release = found.groups()
        version = f"{version}-{release}"
    elif (found := _ZYPP.match(line)) is not None:
        day, action, name, version = found.groups()
        action = action.strip()
    else:
        return None
    return PackageRow(day, ACTIONS[action], bounded(name, 200), bounded(version, 200))


def _lines(path: Path) -> list[str]:
    try:
        with gzip.open(path) if path.suffix == ".gz" else path.open("rb") as file:
            data = file.read(MOST_BYTES)
    except (OSError, EOFError, zlib.error):
        return []
    return data.decode("utf-8", "replace").splitlines()
