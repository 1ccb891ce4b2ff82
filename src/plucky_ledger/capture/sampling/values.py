"""What a typed change is about, read from this PC: how large swap is, how much room there is."""

import os
from collections.abc import Callable, Mapping
from pathlib import Path

from plucky_ledger.core.job.changes import ChangeKind

PROC, SYS = Path("/proc"), Path("/sys")
LONGEST = 400


def value_of(kind: ChangeKind, proc: Path = PROC, sys: Path = SYS) -> str:
    """The value now, as it is written down; empty where this PC does not tell."""
    read = _READERS.get(kind)
    try:
        return read(proc, sys)[:LONGEST] if read is not None else ""
    except (OSError, ValueError, KeyError):
        return ""


def _memory_info(proc: Path, name: str) -> str:
    """A figure of proc(5), /proc/meminfo, in GB."""
    lines = (proc / "meminfo").read_text().splitlines()
    figures = dict(line.split(":", 1) for line in lines if ":" in line)
    return _gigabytes(int(figures[name].split()[0]) * 1024)


def _gigabytes(amount: int) -> str:
    return f"{amount / 1e9:.1f} GB"


def _free_room(_proc: Path, _sys: Path) -> str:
    room = os.statvfs("/")
    return _gigabytes(room.f_bavail * room.f_frsize)


def _power(_proc: Path, sys: Path) -> str:
    """The platform's profile, or else the first core's governor; kernel documentation, sysfs."""
    profile = sys / "firmware/acpi/platform_profile"
    governor = sys / "devices/system/cpu/cpu0/cpufreq/scaling_governor"
    return (profile if profile.exists() else governor).read_text().strip()


def _boot_options(proc: Path, _sys: Path) -> str:
    return (proc / "cmdline").read_text().strip()


_READERS: Mapping[ChangeKind, Callable[[Path, Path], str]] = {
    ChangeKind.SWAP: lambda proc, _sys: _memory_info(proc, "SwapTotal"),
    ChangeKind.MEMORY: lambda proc, _sys: _memory_info(proc, "MemTotal"),
    ChangeKind.DISK_SPACE: _free_room,
    ChangeKind.CACHE: _free_room,
    ChangeKind.POWER_OR_EFFECTS: _power,
    ChangeKind.BOOT_OPTION: _boot_options,
}
