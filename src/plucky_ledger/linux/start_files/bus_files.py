"""Programs that the message bus starts when somebody calls their name.

Those that a service manager starts in its stead are units, and found there. D-Bus Specification,
"Message Bus Starting Services (Activation)".
"""

import configparser
import os
from collections.abc import Iterator, Sequence
from pathlib import Path

from plucky_ledger.core.entries.commands import unwrapped
from plucky_ledger.core.entries.entry import EntryKind
from plucky_ledger.core.entries.sources import StartSource
from plucky_ledger.linux.folders import SESSION_BUS, SYSTEM_BUS
from plucky_ledger.linux.start_files.found import How, Looked, Reading, StartLine

SECTION = "D-BUS Service"
SHARED = ("usr/local/share", "usr/share")
"""The administrator's own before those of packages."""
OWN = f".local/share/{SESSION_BUS}"
"""Of a person, below their home."""


def of_the_person(root: Path, home: Path, every: bool = False) -> Looked:
    """What the session's bus has started, a person's own files before the others; or ``every``
    program it may start.
    """
    folders = [home / OWN, *(root / shared / SESSION_BUS for shared in SHARED)]
    return _looked(StartSource.SESSION_BUS, folders, None if every else _running(root))


def of_the_system(root: Path, every: bool = False) -> Looked:
    """What the system's bus has started, or ``every`` program it may start."""
    folders = [root / shared / SYSTEM_BUS for shared in SHARED]
    return _looked(StartSource.SYSTEM_BUS, folders, None if every else _running(root))


def delivered(root: Path, of_system: bool) -> dict[str, StartLine]:
    """What the files of packages have the bus start, by the ids of the entries."""
    source = StartSource.SYSTEM_BUS if of_system else StartSource.SESSION_BUS
    looked = _looked(source, [root / SHARED[-1] / (SYSTEM_BUS if of_system else SESSION_BUS)], None)
    return {line.entry_id: line for line in looked.lines}


def called(text: str) -> str:
    """The name whose first call has the bus start what a file says; empty where there is none."""
    return _service(text).get("name", "").strip()


def _looked(source: StartSource, folders: Sequence[Path], running: frozenset[str] | None) -> Looked:
    reading, lines = Reading(), {}
    for path in (path for folder in folders for path in reading.listed(folder)):
        if path.suffix != ".service" or path.name in lines:
            continue
        started = _started(reading.text(path))
        lines[path.name] = StartLine(
            kind=EntryKind.BUS_PROGRAM,
            file=str(path),
            user="",
            of_system=source is StartSource.SYSTEM_BUS,
            command=started,
            line=started,
            how=How.BUS,
        )
    # Most are never called: an entry is what was there.
    there = [
        one
        for one in lines.values()
        if one.command and (running is None or unwrapped(one.command).program in running)
    ]
    return reading.looked(source, there)


def _started(text: str) -> str:
    """What a file starts itself; empty where a service manager is to do that, or nothing is."""
    service = _service(text)
    return "" if service.get("systemdservice") else service.get("exec", "").strip()


def _service(text: str) -> dict[str, str]:
    parsed = configparser.ConfigParser(interpolation=None, strict=False)
    try:
        parsed.read_string(text)
    except configparser.Error:
        return {}
    return dict(parsed[SECTION]) if parsed.has_section(SECTION) else {}


def _running(root: Path) -> frozenset[str]:
    """Programs that run now, by the first word of their command."""
    return frozenset(program for program in _programs(root / "proc") if program)


def _programs(proc: Path) -> Iterator[str]:
    try:
        numbers = [name for name in os.listdir(proc) if name.isdigit()]
    except OSError:
        return
    for number in numbers:
        try:
            words = (proc / number / "cmdline").read_bytes()[:4096].split(b"\0")
        except OSError:
            continue
        yield unwrapped(" ".join(word.decode("utf-8", "replace") for word in words)).program
