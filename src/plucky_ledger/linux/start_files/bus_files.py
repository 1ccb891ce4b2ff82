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
from plucky_ledger.linux.start_files.found import How, Looked, Reading, StartLine

SECTION = "D-BUS Service"
SHARED = ("usr/local/share", "usr/share")


def of_the_person(root: Path, home: Path, every: bool = False) -> Looked:
    """What the session's bus has started, a person's own files before the others; or ``every``
    program it may start.
    """
    folders = [home / ".local/share", *(root / shared for shared in SHARED)]
    return _looked(
        StartSource.SESSION_BUS,
        [one / "dbus-1/services" for one in folders],
        None if every else _running(root),
        home,
    )


def of_the_system(root: Path, every: bool = False) -> Looked:
    """What the system's bus has started, or ``every`` program it may start."""
    folders = [root / shared / "dbus-1/system-services" for shared in SHARED]
    return _looked(StartSource.SYSTEM_BUS, folders, None if every else _running(root), None)


def _looked(
    source: StartSource, folders: Sequence[Path], running: frozenset[str] | None, home: Path | None
) -> Looked:
    reading, lines = Reading(), {}
    for path in (path for folder in folders for path in reading.listed(folder)):
        if path.suffix != ".service" or path.name in lines:
            continue
        started = _started(reading.text(path))
        own = home is not None and path.is_relative_to(home)
        lines[path.name] = StartLine(
            kind=EntryKind.BUS_PROGRAM,
            file=str(path),
            user="",
            of_system=not own,
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
    parsed = configparser.ConfigParser(interpolation=None, strict=False)
    try:
        parsed.read_string(text)
    except configparser.Error:
        return ""
    service = dict(parsed[SECTION]) if parsed.has_section(SECTION) else {}
    return "" if service.get("systemdservice") else service.get("exec", "").strip()


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
