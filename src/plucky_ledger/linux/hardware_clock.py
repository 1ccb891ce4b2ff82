"""The clock that runs while the PC is off."""

from pathlib import Path

LOCAL = "LOCAL"
"""The third line of adjtime(5) where it keeps local time, as beside another operating system."""


def keeps_local_time(etc: Path = Path("/etc")) -> bool:
    """Whether it does: then a start right after a change of summer time may be an hour off."""
    try:
        lines = (etc / "adjtime").read_text(errors="replace").splitlines()
    except OSError:
        return False
    return len(lines) > 2 and lines[2].strip() == LOCAL
