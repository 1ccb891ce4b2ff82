"""Package manager of the libalpm family: its local database and log, text that any user may read.

Every installed package has a folder there: ``desc`` describes it, ``files`` lists what it owns.
"""

import re
from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import ClassVar

from plucky_ledger.capture.packages.asking import log_lines, spellings, text_of
from plucky_ledger.capture.packages.dpkg import names_in
from plucky_ledger.capture.packages.packages import ROOT, Installed, Package
from plucky_ledger.recording.history import PackageRow
from plucky_ledger.recording.lines import bounded

DATABASE, LOG = Path("var/lib/pacman/local"), Path("var/log/pacman.log")
MOST_PACKAGES = 50_000
ACTIONS = {"installed": "installed", "upgraded": "updated", "removed": "removed"}
_LOGGED = re.compile(
    r"\[(\d{4}-\d\d-\d\d)[T ][^\]]*\] \[ALPM\] (installed|upgraded|removed) (\S+) \(([^)]*)\)"
)

Fields = Mapping[str, list[str]]
"""Lines of each block of a file of the database, by the block's name."""


@dataclass(frozen=True)
class Alpm:
    """See ``PackageManager``."""

    root: Path = ROOT
    caches: ClassVar[tuple[str, ...]] = ("var/cache/pacman",)

    @property
    def is_here(self) -> bool:
        """Whether its database is there."""
        return (self.root / DATABASE).is_dir()

    def owners(self, paths: Iterable[str]) -> Mapping[str, Package]:
        """Owning package of each path."""
        path_of = {spelling[1:]: path for path in paths for spelling in spellings(path)}
        found: dict[str, Package] = {}
        for folder in self._folders():
            owned = path_of.keys() & set(_fields(text_of(folder / "files")).get("FILES", ()))
            if owned:
                package = _package(_fields(text_of(folder / "desc")))
                found |= {path_of[name]: package for name in owned}
        return found

    def versions(self) -> Mapping[str, str]:
        """Version of every installed package, by its name."""
        packages = map(_package, self._descriptions())
        return {package.name: package.version for package in packages}

    def log(self, most: int) -> list[PackageRow]:
        """What was installed, updated and removed."""
        lines = log_lines(self.root / LOG)
        return [row for line in lines if (row := logged(line)) is not None][-most:]

    def installed(self) -> list[Installed]:
        """Every installed package with what it needs."""
        return [
            Installed(
                name=fields["NAME"][0],
                size_bytes=int(size) if (size := _first(fields, "SIZE")).isdigit() else 0,
                by_itself=fields.get("REASON") == ["1"],
                wants=tuple(_names(fields, "DEPENDS", "OPTDEPENDS")),
                provides=tuple(_names(fields, "PROVIDES")),
            )
            for fields in self._descriptions()
        ]

    def never_unneeded(self) -> Callable[[str], bool]:
        """It has no such setting."""
        return lambda _name: False

    def _folders(self) -> list[Path]:
        try:
            return sorted((self.root / DATABASE).iterdir())[:MOST_PACKAGES]
        except OSError:
            return []

    def _descriptions(self) -> Iterator[Fields]:
        read = (_fields(text_of(folder / "desc")) for folder in self._folders())
        return (fields for fields in read if fields.get("NAME"))


def logged(line: str) -> PackageRow | None:
    """What one line of the log tells; None where it is no such line."""
    if (found := _LOGGED.match(line)) is None:
        return None
    day, action, name, version = found.groups()
    version = version.rpartition(" ")[2]  # the newer of the two
    return PackageRow(day, ACTIONS[action], bounded(name, 200), bounded(version, 200))


def _package(fields: Fields) -> Package:
    return Package(*(_first(fields, name) for name in ("NAME", "VERSION", "DESC")))


def _first(fields: Fields, name: str) -> str:
    return (fields.get(name) or [""])[0]


def _names(fields: Fields, *blocks: str) -> Iterator[str]:
    for block in blocks:
        for line in fields.get(block, ()):
            yield from names_in(line)


def _fields(text: str) -> Fields:
    """Blocks that begin with their name between percent signs, a value in each line."""
    fields: dict[str, list[str]] = {}
    for block in text.split("\n\n"):
        head, *values = block.strip().splitlines() or [""]
        if head.startswith("%") and head.endswith("%"):
            fields[head.strip("%")] = [value.strip() for value in values if value.strip()]
    return fields
