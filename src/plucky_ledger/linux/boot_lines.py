"""Lines of tables of timed jobs that say @reboot: run once, when the daemon starts. crontab(5)."""

import hashlib
import os
import re
import subprocess
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from plucky_ledger.core.entries.kinds import OF_TABLE
from plucky_ledger.linux.users import is_administrator, user_name

ROOT = Path("/")
SYSTEM_TABLES = ("etc/crontab", "etc/cron.d")
"""Tables whose lines name a user: one file, and a folder of them."""
USERS_TABLES = ("var/spool/cron/crontabs", "var/spool/cron")
"""Folders with one table for each user, named as they are; only the administrator may read them."""
LARGEST_BYTES = 200_000
ANSWERS_WITHIN_SECONDS = 5.0
_SAID_AT_START = re.compile(r"\s*@reboot\s+(.+)", re.IGNORECASE)
_RUN_BY_IT = re.compile(r"[A-Za-z0-9_-]+")
"""Names of the files in a folder of tables that are read: no others are."""


@dataclass(frozen=True, kw_only=True)
class BootLine:
    """One line that starts a command with the PC."""

    entry_id: str
    """The same in every boot for as long as the line stays as it is."""
    file: str
    """Where it stands; empty for the table of the user who asks, which has no file of theirs."""
    user: str
    """Who the command is run as."""
    of_system: bool
    """It stands in a table of the system's, not in the user's own."""
    command: str
    line: str
    """As it stands there."""


def boot_lines(root: Path = ROOT) -> list[BootLine]:
    """Those of the system, and of every user; of the user who asks alone, without the right."""
    found = [line for table in _system_tables(root) for line in _lines(table, "")]
    if is_administrator():
        for folder in USERS_TABLES:
            for table in _files(root / folder):
                found += _lines(table, table.name)
    else:
        found += _taken_apart(_own_table(), "", user_name())
    return list({line.entry_id: line for line in found}.values())


def _system_tables(root: Path) -> Iterator[Path]:
    file, folder = SYSTEM_TABLES
    yield root / file
    yield from (table for table in _files(root / folder) if _RUN_BY_IT.fullmatch(table.name))


def _files(folder: Path) -> list[Path]:
    try:
        return sorted(path for path in folder.iterdir() if path.is_file())
    except OSError:
        return []


def _lines(table: Path, user: str) -> list[BootLine]:
    try:
        with table.open("rb") as file:
            text = file.read(LARGEST_BYTES).decode("utf-8", "replace")
    except OSError:
        return []
    return _taken_apart(text, str(table), user)


def _own_table() -> str:
    """The table of who asks, by the daemon's own program: its file is not for their eyes."""
    try:
        done = subprocess.run(
            ["crontab", "-l"],
            capture_output=True,
            timeout=ANSWERS_WITHIN_SECONDS,
            check=False,
            env={**os.environ, "LC_ALL": "C"},
        )
    except (OSError, subprocess.TimeoutExpired):
        return ""
    return done.stdout[:LARGEST_BYTES].decode("utf-8", "replace") if done.returncode == 0 else ""


def _taken_apart(text: str, file: str, user: str) -> list[BootLine]:
    """``user`` is whose table it is; empty for a system's, whose lines name them."""
    found = []
    for line in text.splitlines():
        if (said := _SAID_AT_START.fullmatch(line)) is None:
            continue
        whose, _, command = (user, "", said[1]) if user else said[1].partition(" ")
        # What follows a percent sign is the command's input; one behind a backslash is a sign.
        command = re.split(r"(?<!\\)%", command)[0].replace("\\%", "%").strip()
        if command:
            digest = hashlib.sha256(f"{whose} {command}".encode()).hexdigest()[:8]
            name = Path(file).name or user
            found.append(
                BootLine(
                    entry_id=f"{OF_TABLE}{name}:{digest}",
                    file=file,
                    user=whose,
                    of_system=not user,
                    command=command,
                    line=line.strip(),
                )
            )
    return found
