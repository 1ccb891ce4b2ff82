"""Package manager of the Debian family: dpkg, and apt above it.

Files: deb-control(5) in dpkg's status, apt-mark(8) in apt's list of automatic packages, apt.conf(5)
for what is never removed automatically, dpkg(1) for the log, rotated and packed.
"""

import re
import shutil
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import ClassVar

from plucky_ledger.capture.packages.asking import answer, log_lines, parts, spellings, text_of
from plucky_ledger.capture.packages.packages import ROOT, Installed, Package
from plucky_ledger.recording.history import PackageRow
from plucky_ledger.recording.lines import bounded

STATUS, BY_ITSELF = Path("var/lib/dpkg/status"), Path("var/lib/apt/extended_states")
SETTINGS = Path("etc/apt/apt.conf.d")
LOGS = ("dpkg.log", "dpkg.log.1", *(f"dpkg.log.{number}.gz" for number in range(2, 14)))
"""The newest first."""
MOST_PACKAGES = 50_000
KIBIBYTE = 1024
ACTIONS = {"install": "installed", "upgrade": "updated", "remove": "removed"}
_LOGGED = re.compile(
    r"(\d{4}-\d\d-\d\d) \d\d:\d\d:\d\d (install|upgrade|remove) ([^\s:]+)(?::\S+)? (\S+) (\S+)"
)
_KEPT = re.compile(r'"(\^[^"]{1,200})"')
_NAME = re.compile(r"[^\s:<>=(|,]+")
_RELATIONS = ("Pre-Depends", "Depends", "Recommends", "Suggests")


@dataclass(frozen=True)
class Dpkg:
    """See ``PackageManager``."""

    root: Path = ROOT
    caches: ClassVar[tuple[str, ...]] = ("var/cache/apt",)

    @property
    def is_here(self) -> bool:
        """Whether its query tool is there."""
        return shutil.which("dpkg-query") is not None

    def owners(self, paths: Iterable[str]) -> Mapping[str, Package]:
        """Owning package of each path. Merged /usr: a file is also known without it."""
        path_of = {spelling: path for path in paths for spelling in spellings(path)}
        names: dict[str, str] = {}
        for part in parts(list(path_of)):
            for line in answer(["dpkg-query", "-S", "--", *part]).splitlines():
                owners, colon, path = line.partition(": ")
                if colon and path in path_of and not owners.startswith("diversion "):
                    names.setdefault(path_of[path], owners.split(",")[0].split(":")[0].strip())
        described = _described(sorted(set(names.values())))
        return {path: described[name] for path, name in names.items() if name in described}

    def versions(self) -> Mapping[str, str]:
        """Version of every installed package. What was removed may be known by its settings."""
        form = "-f=${db:Status-Status}\\t${binary:Package}\\t${Version}\\n"
        rows = [line.split("\t") for line in answer(["dpkg-query", "-W", form]).splitlines()]
        return {row[1]: row[2] for row in rows if len(row) == 3 and row[0] == "installed"}

    def log(self, most: int) -> list[PackageRow]:
        """What was installed, updated and removed; older logs as long as there are too few."""
        rows: list[PackageRow] = []
        for name in LOGS:
            lines = log_lines(self.root / "var/log" / name)
            rows = [*(row for line in lines if (row := logged(line)) is not None), *rows]
            if len(rows) >= most:
                break
        return rows

    def installed(self) -> list[Installed]:
        """Every installed package with what it needs."""
        by_itself = {
            stanza.get("Package", "")
            for stanza in _stanzas(self.root / BY_ITSELF)
            if stanza.get("Auto-Installed") == "1"
        }
        packages = {}
        for stanza in _stanzas(self.root / STATUS):
            name = stanza.get("Package", "")
            if name and stanza.get("Status", "").endswith(" installed"):
                packages[name] = _installed(name, stanza, by_itself)
        return list(packages.values())

    def never_unneeded(self) -> Callable[[str], bool]:
        """Whether the settings of apt say that a package is never to go by itself."""
        try:
            texts = [text_of(path) for path in sorted((self.root / SETTINGS).iterdir())]
        except OSError:
            return lambda _name: False
        patterns = []
        for pattern in _KEPT.findall("".join(text for text in texts if "NeverAutoRemove" in text)):
            with suppress(re.error):
                patterns.append(re.compile(pattern))
        return lambda name: any(pattern.search(name) for pattern in patterns)


def logged(line: str) -> PackageRow | None:
    """What one line of the log tells; None where it is no such line."""
    if (found := _LOGGED.match(line)) is None:
        return None
    day, action, name, old, new = found.groups()
    version = old if action == "remove" else new
    return PackageRow(day, ACTIONS[action], bounded(name, 200), bounded(version, 200))


def names_in(relations: str) -> Iterator[str]:
    """The packages of a list of relations, alternatives each, without their versions."""
    for part in re.split(r"[,|]", relations):
        if (found := _NAME.match(part.strip())) is not None:
            yield found[0]


def _described(names: Sequence[str]) -> dict[str, Package]:
    form = "-f=${Package}\\t${Version}\\t${binary:Summary}\\n"
    lines = [
        line.split("\t")
        for part in parts(names)
        for line in answer(["dpkg-query", "-W", form, "--", *part]).splitlines()
    ]
    return {row[0]: Package(row[0], row[1], row[2]) for row in lines if len(row) == 3}


def _installed(name: str, stanza: Mapping[str, str], by_itself: set[str]) -> Installed:
    kept = stanza.get("Priority") == "required" or any(
        stanza.get(field) == "yes" for field in ("Essential", "Protected", "Important")
    )
    size = stanza.get("Installed-Size", "")
    return Installed(
        name=name,
        size_bytes=int(size) * KIBIBYTE if size.isdigit() and len(size) < 12 else 0,
        by_itself=name in by_itself and not kept,
        wants=tuple(wanted for field in _RELATIONS for wanted in names_in(stanza.get(field, ""))),
        provides=tuple(names_in(stanza.get("Provides", ""))),
    )


def _stanzas(path: Path) -> Iterator[Mapping[str, str]]:
    """Paragraphs of fields; the lines that continue one are passed over."""
    stanza: dict[str, str] = {}
    count = 0
    for line in text_of(path).splitlines():
        if not line:
            yield stanza
            stanza, count = {}, count + 1
            if count >= MOST_PACKAGES:
                return
        elif not line[0].isspace():
            field, _, value = line.partition(":")
            stanza[field] = value.strip()
    if stanza:
        yield stanza
