"""Calls to a package manager's query tools, and reading its files."""

import gzip
import subprocess
import zlib
from collections.abc import Iterable, Sequence
from pathlib import Path

PATIENCE_SECONDS = 20
AT_ONCE = 200
"""Paths or names in one question."""
MOST_LOG_BYTES = 8_000_000
MOST_DATABASE_BYTES = 64 << 20
LONGEST_LOG_LINE = 2_000
"""Characters of a line of a log that are looked at."""


def answer(command: Sequence[str]) -> str:
    """What a query tool says; files nobody owns make it end with an error, which is an answer."""
    try:
        done = subprocess.run(
            command,
            capture_output=True,
            timeout=PATIENCE_SECONDS,
            check=False,
            env={"LC_ALL": "C.UTF-8", "PATH": "/usr/sbin:/usr/bin:/sbin:/bin"},
        )
    except (OSError, subprocess.SubprocessError):
        return ""
    return done.stdout.decode("utf-8", "replace")


def parts(items: Sequence[str]) -> Iterable[Sequence[str]]:
    """The items in questions that are short enough."""
    return (items[at : at + AT_ONCE] for at in range(0, len(items), AT_ONCE))


def spellings(path: str) -> tuple[str, ...]:
    """A path with and without /usr: where the two are merged, a database may know either."""
    if path.startswith("/usr/"):
        return (path, path.removeprefix("/usr"))
    return (path, f"/usr{path}")


def text_of(path: Path) -> str:
    """A file of a database; empty where it cannot be read."""
    try:
        with path.open("rb") as file:
            return file.read(MOST_DATABASE_BYTES).decode("utf-8", "replace")
    except (OSError, ValueError):
        return ""


def log_lines(path: Path) -> list[str]:
    """Lines of a log, packed or not; none where it cannot be read."""
    try:
        with gzip.open(path) if path.suffix == ".gz" else path.open("rb") as file:
            data = file.read(MOST_LOG_BYTES)
    except (OSError, EOFError, zlib.error):
        return []
    return [line[:LONGEST_LOG_LINE] for line in data.decode("utf-8", "replace").splitlines()]
