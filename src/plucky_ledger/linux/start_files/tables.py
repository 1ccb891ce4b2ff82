"""Lines of tables of timed jobs that say @reboot: run once, when the daemon starts. crontab(5)."""

import re
from collections.abc import Iterator
from pathlib import Path

from plucky_ledger.core.entries.entry import EntryKind
from plucky_ledger.core.entries.sources import StartSource
from plucky_ledger.linux.own_table import read_own_table
from plucky_ledger.linux.start_files.found import LARGEST_BYTES, How, Looked, Reading, StartLine
from plucky_ledger.linux.users import is_administrator, user_name

SYSTEM_TABLES = ("etc/crontab", "etc/cron.d")
"""Tables whose lines name a user: one file, and a folder of them."""
USERS_TABLES = ("var/spool/cron/crontabs", "var/spool/cron")
"""Folders with one table for each user, named as they are; only the administrator may read them."""
OFF_MARK = "# switched off by Plucky Ledger: "
"""Stands before a line that is switched off: for cron a remark."""
_SAID_AT_START = re.compile(r"\s*@reboot\s+(.+)", re.IGNORECASE)
_RUN_BY_IT = re.compile(r"[A-Za-z0-9_-]+")
"""Names of the files in a folder of tables that are read: no others are."""


def every_table(root: Path) -> Looked:
    """Tables of the system, and of every user; of the user who asks alone, without the right."""
    reading, found = Reading(), []
    for table in system_tables(reading, root):
        found += _taken_apart(reading.text(table), str(table), "")
    if is_administrator():
        for folder in USERS_TABLES:
            for table in reading.listed(root / folder):
                found += _taken_apart(reading.text(table), str(table), table.name)
    else:
        found += _taken_apart(_own_table(), "", user_name())
        reading.refused += [str(root / name) for name in USERS_TABLES if (root / name).is_dir()][:1]
    return reading.looked(StartSource.TABLES, found)


def system_tables(reading: Reading, root: Path) -> Iterator[Path]:
    """Tables whose lines name a user."""
    file, folder = SYSTEM_TABLES
    yield root / file
    listed = reading.listed(root / folder)
    yield from (table for table in listed if _RUN_BY_IT.fullmatch(table.name))


def _own_table() -> str:
    """The beginning of the table of who asks; its file is not for their eyes."""
    try:
        return (read_own_table() or b"")[:LARGEST_BYTES].decode("utf-8", "replace")
    except OSError:
        return ""


def _taken_apart(text: str, file: str, user: str) -> list[StartLine]:
    """``user`` is whose table it is; empty for a system's, whose lines name them."""
    lines = (said_in(line, file, user) for line in text.splitlines())
    return [line for line in lines if line is not None]


def said_in(line: str, file: str, user: str) -> StartLine | None:
    """What a line of a table starts with the PC, also where we have switched it off; None for any
    other line.
    """
    is_off = line.startswith(OFF_MARK)
    line = line.removeprefix(OFF_MARK)
    if (said := _SAID_AT_START.fullmatch(line)) is None:
        return None
    whose, command = (user, said[1]) if user else (*said[1].split(None, 1), "")[:2]
    # What follows a percent sign is the command's input; one behind a backslash is a sign.
    command = re.split(r"(?<!\\)%", command)[0].replace("\\%", "%").strip()
    if not command:
        return None
    return StartLine(
        kind=EntryKind.BOOT_LINE,
        file=file,
        user=whose,
        of_system=not user,
        command=command,
        line=line.strip(),
        how=How.OWN_TABLE if user else How.LINE,
        off=is_off,
    )


def is_system_table(path: Path, etc: Path) -> bool:
    """Whether a path is one of the tables whose lines name a user, which only root writes."""
    file, folder = (etc.parent / table for table in SYSTEM_TABLES)
    return path == file or (path.parent == folder and bool(_RUN_BY_IT.fullmatch(path.name)))


def differ_by_marks(one: str, other: str, user: str = "") -> bool:
    """Whether two texts of a table are the same but for lines that are switched off in one.

    ``user`` is whose table it is; empty for a system's.
    """
    pairs = list(zip(one.split("\n"), other.split("\n"), strict=False))
    as_many = one.count("\n") == other.count("\n")
    return as_many and all(
        a == b or (a.removeprefix(OFF_MARK) == b.removeprefix(OFF_MARK) and said_in(a, "", user))
        for a, b in pairs
    )
