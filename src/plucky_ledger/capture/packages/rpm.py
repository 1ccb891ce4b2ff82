"""Package managers of the rpm family: its query tool, and the logs of dnf and libzypp above it.

Packages no longer needed are not told: the database is not text, and which packages were installed
on request is known to the managers above it alone.
"""

import re
import shutil
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import ClassVar

from plucky_ledger.capture.packages.asking import answer, log_lines
from plucky_ledger.capture.packages.packages import ROOT, Installed, Package
from plucky_ledger.recording.history import PackageRow
from plucky_ledger.recording.lines import bounded

LOGS = ("dnf.rpm.log.1", "dnf.rpm.log", "zypp/history")
"""The oldest first."""
ACTIONS = {
    "Installed": "installed",
    "Upgrade": "updated",
    "Erase": "removed",
    "Removed": "removed",
    "install": "installed",
    "remove": "removed",
}
_DNF = re.compile(
    r"(\d{4}-\d\d-\d\d)T\S+ \S+ (Installed|Upgrade|Erase|Removed): (\S+)-([^\s-]+-[^\s-]+)\.\w+$"
)
_ZYPP = re.compile(r"(\d{4}-\d\d-\d\d) [\d:]+\|(install|remove) ?\|([^|]+)\|([^|]*)\|")


@dataclass(frozen=True)
class Rpm:
    """See ``PackageManager``."""

    root: Path = ROOT
    caches: ClassVar[tuple[str, ...]] = (
        "var/cache/dnf",
        "var/cache/libdnf5",
        "var/cache/zypp",
        "var/cache/PackageKit",
    )

    @property
    def is_here(self) -> bool:
        """Whether its query tool is there."""
        return shutil.which("rpm") is not None

    def owners(self, paths: Iterable[str]) -> Mapping[str, Package]:
        """Owning package of each path. Each answer is one line."""
        packages: dict[str, Package] = {}
        form = "%{NAME}\\t%{VERSION}-%{RELEASE}\\t%{SUMMARY}\\n"
        for path in paths:
            for line in answer(["rpm", "-qf", "--queryformat", form, "--", path]).splitlines():
                row = line.split("\t")
                if len(row) == 3:
                    packages.setdefault(path, Package(*row))
        return packages

    def versions(self) -> Mapping[str, str]:
        """Version of every installed package, by its name."""
        form = "%{NAME}\\t%{VERSION}-%{RELEASE}\\n"
        rows = [
            line.split("\t") for line in answer(["rpm", "-qa", "--queryformat", form]).splitlines()
        ]
        return {row[0]: row[1] for row in rows if len(row) == 2}

    def log(self, most: int) -> list[PackageRow]:
        """What was installed, updated and removed."""
        lines = (line for name in LOGS for line in log_lines(self.root / "var/log" / name))
        return [row for line in lines if (row := logged(line)) is not None][-most:]

    def installed(self) -> list[Installed]:
        """Not available: the database is not text."""
        return []

    def never_unneeded(self) -> Callable[[str], bool]:
        """Not available: no package is reported as unneeded."""
        return lambda _name: False


def logged(line: str) -> PackageRow | None:
    """What one line of a log tells; None where it is no such line."""
    if (found := _DNF.match(line) or _ZYPP.match(line)) is None:
        return None
    day, action, name, version = found.groups()
    return PackageRow(day, ACTIONS[action], bounded(name, 200), bounded(version, 200))
