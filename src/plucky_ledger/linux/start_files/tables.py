"""Lines of tables of timed jobs that say @reboot: run once, when the daemon starts. crontab(5)."""

import os
import re
import subprocess
from collections.abc import Iterator
from pathlib import Path

from plucky_ledger.core.entries.entry import EntryKind
from plucky_ledger.core.entries.sources import StartSource
from plucky_ledger.linux.start_files.found import LARGEST_BYTES, How, Looked, Reading, StartLine
from plucky_ledger.linux.users import is_administrator, user_name

SYSTEM_TABLES = ("etc/crontab", "etc/cron.d")
"""Tables whose lines name a user: one file, and a folder of them."""
USERS_TABLES = ("var/spool/cron/crontabs", "var/spool/cron")
"""Folders with one table for each user, named as they are; only the administrator may read them."""
ANSWERS_WITHIN_SECONDS = 5.0
_SAID_AT_START = re.compile(r"\s*@reboot\s+(.+)", re.IGNORECASE)
_RUN_BY_IT = re.compile(r"[A-Za-z0-9_-]+")
"""Names of the files in a folder of tables that are read: no others are."""


def every_table(root: Path) -> Looked:
    """Tables of the system, and of every user; of the user who asks alone, without the right."""
    reading, found = Reading(), []
    for table in _system_tables(reading, root):
        found += _taken_apart(reading.text(table), str(table), "")
    if is_administrator():
        for folder in USERS_TABLES:
            for table in reading.listed(root / folder):
                found += _taken_apart(reading.text(table), str(table), table.name)
    else:
        found += _taken_apart(_own_table(), "", user_name())
        reading.refused += [str(root / name) for name in USERS_TABLES if (root / name).is_dir()][:1]
    return reading.looked(StartSource.TABLES, found)


def _system_tables(reading: Reading, root: Path) -> Iterator[Path]:
    file, folder = SYSTEM_TABLES
    yield root / file
    listed = reading.listed(root / folder)
    yield from (table for table in listed if _RUN_BY_IT.fullmatch(table.name))


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


def _taken_apart(text: str, file: str, user: str) -> list[StartLine]:
    """``user`` is whose table it is; empty for a system's, whose lines name them."""
    found = []
    for line in text.splitlines():
        if (said := _SAID_AT_START.fullmatch(line)) is None:
            continue
        whose, _, command = (user, "", said[1]) if user else said[1].partition(" ")
        # What follows a percent sign is the command's input; one behind a backslash is a sign.
        command = re.split(r"(?<!\\)%", command)[0].replace("\\%", "%").strip()
        if command:
            found.append(
                StartLine(
                    kind=EntryKind.BOOT_LINE,
                    file=file,
                    user=whose,
                    of_system=not user,
                    command=command,
                    line=line.strip(),
                    how=How.OWN_TABLE if user else How.LINE,
                )
            )
    return found
