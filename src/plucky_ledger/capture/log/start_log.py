"""When a PC was started, over months: the log of sign-ins and starts that anybody may read.

Its records are those of utmp(5); newer systems keep them in a database instead (wtmpdb(8)).
"""

import sqlite3
from contextlib import closing
from pathlib import Path

from plucky_ledger.linux.sign_in_records import BOOT, LATEST, records

MOST_STARTS = 5_000
DATABASE_BOOT, MICROSECONDS = 1, 1_000_000


def starts(var: Path = Path("/var")) -> tuple[float, ...]:
    """Instants of all starts in seconds of the epoch, oldest first; empty where no such log is
    kept.
    """
    found: set[float] = set()
    for name in ("wtmp.1", "wtmp"):
        found.update(_in_file(var / "log" / name))
    found.update(_in_database(var / "lib/wtmpdb/wtmp.db"))
    return tuple(sorted(found)[-MOST_STARTS:])


def _in_file(path: Path) -> list[float]:
    return [float(int(one.at)) for one in records(path) if one.kind == BOOT and one.at > 0]


def _in_database(path: Path) -> list[float]:
    if not path.is_file():
        return []
    try:
        with closing(sqlite3.connect(f"{path.as_uri()}?mode=ro", uri=True, timeout=1)) as database:
            rows = database.execute(
                "select Login from wtmp where Type = ? order by Login desc limit ?",
                (DATABASE_BOOT, MOST_STARTS),
            ).fetchall()
    except sqlite3.Error:
        return []
    instants = [row[0] // MICROSECONDS for row in rows if isinstance(row[0], int)]
    return [float(seconds) for seconds in instants if 0 < seconds < LATEST]
