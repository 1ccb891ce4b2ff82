"""Which boot this is, and how long it has lasted."""

from pathlib import Path

PROC = Path("/proc")
LONGEST = 64


def boot_id(proc: Path = PROC) -> str:
    """The kernel's name for this boot; empty where it gives none."""
    try:
        return (proc / "sys/kernel/random/boot_id").read_text().strip()[:LONGEST]
    except (OSError, UnicodeDecodeError):
        return ""


def seconds_up(proc: Path = PROC) -> float:
    """How long this boot has lasted. Raises OSError."""
    return float((proc / "uptime").read_text().split()[0])
