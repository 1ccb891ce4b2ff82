"""What is found in files that start programs, and what of them may not be read."""

import hashlib
import os
import stat
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from enum import StrEnum
from pathlib import Path

from plucky_ledger.core.entries.entry import EntryKind
from plucky_ledger.core.entries.kinds import OF_BUS, OF_FILE, OF_TABLE, OF_USER
from plucky_ledger.core.entries.sources import StartSource

LARGEST_BYTES = 200_000
MOST_FILES = 500
"""Files of one folder that are read."""
_MARKS = {EntryKind.BOOT_LINE: OF_TABLE, EntryKind.BUS_PROGRAM: OF_BUS}


class How(StrEnum):
    """How a person switches off what was found."""

    LINE = "line"
    """By a # before its line."""
    OWN_TABLE = "own_table"
    """The same in the table of a user, which has an editor of its own."""
    SCRIPT = "script"
    """By taking away the script's right to run."""
    BUS = "bus"
    """By a file of the same name that comes before it and starts nothing."""


@dataclass(frozen=True, kw_only=True)
class StartLine:
    """One line, or one script, that starts a program."""

    kind: EntryKind
    file: str
    """Where it stands; empty for the table of the user who asks, which has no file of theirs."""
    user: str
    """Who the command is run as; empty is not said there."""
    of_system: bool
    """It is the system's; what starts in every user's session is the user's own."""
    command: str
    """Empty where it starts no program, such as a module of the kernel."""
    line: str
    """As it stands there."""
    how: How = How.LINE
    off: bool = False
    """It is commented out, by a mark of ours before it."""

    @property
    def entry_id(self) -> str:
        """The same in every boot for as long as the command stays as it is."""
        said, name = f"{self.file} {self.command or self.line}", Path(self.file).name
        if self.kind is EntryKind.BOOT_LINE:
            said, name = f"{self.user} {self.command}", name or self.user
        mark = _MARKS.get(self.kind, OF_FILE)
        own = OF_USER if mark != OF_FILE and not self.of_system else ""
        return f"{own}{mark}{name}:{hashlib.sha256(said.encode()).hexdigest()[:8]}"


@dataclass(frozen=True, kw_only=True)
class Looked:
    """What came of looking at one source."""

    source: StartSource
    files: int
    """Files there that were read."""
    lines: tuple[StartLine, ...]
    refused: tuple[str, ...] = ()
    """Files and folders that are there and that who looks may not read."""


class Reading:
    """Reads files one after the other, and keeps count of what could not be read."""

    def __init__(self) -> None:
        self.files = 0
        self.refused: list[str] = []

    def text(self, path: Path) -> str:
        """The beginning of a file; empty where there is none, or none that may be read."""
        try:
            handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
        except PermissionError:
            self.refused.append(str(path))
            return ""
        except OSError:
            return ""
        with open(handle, "rb") as file:
            if not stat.S_ISREG(os.fstat(handle).st_mode):
                return ""
            self.files += 1
            return file.read(LARGEST_BYTES).decode("utf-8", "replace")

    def listed(self, folder: Path) -> list[Path]:
        """The plain files of a folder, by name."""
        try:
            return sorted(path for path in folder.iterdir() if os.path.isfile(path))[:MOST_FILES]
        except PermissionError:
            self.refused.append(str(folder))
        except OSError:
            return []
        return []

    def matching(self, root: Path, patterns: Sequence[str]) -> list[Path]:
        """The plain files below ``root`` that some patterns name, in the patterns' order."""
        found: list[Path] = []
        for pattern in patterns:
            folder = (root / pattern).parent
            if "*" not in pattern:
                found.append(root / pattern)
            elif "*" not in str(folder):
                found += [path for path in self.listed(folder) if path.match(pattern)]
            else:
                found += sorted(path for path in root.glob(pattern) if os.path.isfile(path))
        return list(dict.fromkeys(found))[:MOST_FILES]

    def looked(self, source: StartSource, lines: Iterable[StartLine]) -> Looked:
        """All of it, each line once."""
        once = {line.entry_id: line for line in lines}
        return Looked(
            source=source,
            files=self.files,
            lines=tuple(once.values()),
            refused=tuple(dict.fromkeys(self.refused)),
        )


Taker = Callable[[str], Iterable[tuple[str, str]]]
"""Finds in a file's text what it starts: pairs of command and line."""
