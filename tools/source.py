"""The source as git knows it, apart from whatever lies beside it in a working folder."""

import shutil
import subprocess
from datetime import UTC, datetime
from pathlib import Path

PROJECT = Path(__file__).parent.parent


def write_source(target: Path) -> None:
    """Copy it, what is not committed yet with it. Raises OSError and CalledProcessError."""
    listed = git("ls-files", "-z", "--cached", "--others", "--exclude-standard").split("\0")
    for name in filter(None, listed):
        if (PROJECT / name).exists():
            (target / name).parent.mkdir(parents=True, exist_ok=True)
            shutil.copy(PROJECT / name, target / name)


def changed_at() -> datetime:
    """When the last commit was made: the date of everything that is built of it."""
    return datetime.fromtimestamp(int(git("log", "-1", "--format=%ct")), UTC)


def git(*command: str) -> str:
    """What a command of git prints. Raises CalledProcessError."""
    done = subprocess.run(
        ["git", "-C", str(PROJECT), *command], capture_output=True, text=True, check=True
    )
    return done.stdout
