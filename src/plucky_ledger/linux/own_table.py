"""The user's own table of timed jobs, by the daemon's own program: its file is the daemon's, with
an owner, rights and checks of its own. crontab(1).
"""

import errno
import os
import subprocess

PROGRAM = "crontab"
ANSWERS_WITHIN_SECONDS = 5.0
NO_TABLE = "no crontab for"
"""What it says where the user has none; its exit code is that of any failure."""


def read_own_table() -> bytes | None:
    """The whole table; None where there is none. Raises OSError, also where the user may have
    none.
    """
    done = _run("-l")
    if done.returncode == 0:
        return done.stdout
    said = done.stderr.decode("utf-8", "replace")
    if NO_TABLE in said:
        return None
    raise PermissionError(errno.EACCES, said.strip() or os.strerror(errno.EACCES), PROGRAM)


def put_own_table(data: bytes) -> None:
    """Replace the table, all at once. Raises OSError where it is refused."""
    done = _run("-", data)
    if done.returncode != 0:
        said = done.stderr.decode("utf-8", "replace").strip()
        raise PermissionError(errno.EACCES, said or os.strerror(errno.EACCES), PROGRAM)


def _run(option: str, data: bytes = b"") -> "subprocess.CompletedProcess[bytes]":
    try:
        return subprocess.run(
            [PROGRAM, option],
            input=data,
            capture_output=True,
            timeout=ANSWERS_WITHIN_SECONDS,
            check=False,
            env={**os.environ, "LC_ALL": "C"},
        )
    except subprocess.TimeoutExpired as late:
        raise TimeoutError(errno.ETIMEDOUT, os.strerror(errno.ETIMEDOUT), PROGRAM) from late
