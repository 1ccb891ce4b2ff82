"""What this PC has: OS release, kernel, CPU, memory and drives."""

import os
import platform
import re
import time
from pathlib import Path

from plucky_ledger.capture.sampling.counters import memory_bytes, real_drives
from plucky_ledger.recording.lines import DriveFacts, PcFacts, bounded

BLOCKS = Path("/sys/block")
BLOCK_CLASS = Path("/sys/class/block")
OF_A_HOST = ("vd", "xvd")
"""How the kernel names drives that a host of virtual machines makes."""


def facts_of_this_pc() -> PcFacts:
    """Read what this PC has; what cannot be read stays empty."""
    return PcFacts(
        os_release=_os_release(),
        kernel=bounded(platform.release()),
        cpu_model=_cpu_model(_text(Path("/proc/cpuinfo"))),
        cores=os.cpu_count() or 1,
        memory_bytes=memory_bytes(_text(Path("/proc/meminfo")).encode())[0],
        drives=_drives(),
        uptime_seconds=round(time.clock_gettime(time.CLOCK_BOOTTIME), 1),
    )


def _os_release() -> str:
    try:
        release = platform.freedesktop_os_release()
    except OSError:
        return bounded(platform.system())
    return bounded(release.get("PRETTY_NAME", release.get("NAME", "")))


def _cpu_model(cpuinfo: str) -> str:
    """Model name; the key differs between processor families."""
    for line in cpuinfo.splitlines():
        key, _, value = line.partition(":")
        if key.strip().lower() in {"model name", "cpu model", "hardware", "model"}:
            value = value.strip()
            if value and not value.isdigit():
                return bounded(" ".join(value.split()))
    return ""


def _flags(cpuinfo: str) -> list[str]:
    """What the processor says of itself; a virtual one that it is."""
    lines = (line.partition(":") for line in cpuinfo.splitlines())
    return next((value.split() for key, _, value in lines if key.strip() == "flags"), [])


def _drives() -> tuple[DriveFacts, ...]:
    virtual = "hypervisor" in _flags(_text(Path("/proc/cpuinfo")))  # other processors do not say
    free = _free_by_drive(_text(Path("/proc/self/mounts")))
    return tuple(
        DriveFacts(
            name=bounded(name),
            rotating=_rotating(name),
            size_bytes=_number(BLOCKS / name / "size") * 512,
            free_bytes=free.get(name),
            virtual=virtual or name.startswith(OF_A_HOST),
        )
        for name in sorted(drive.decode() for drive in real_drives(BLOCKS))
        if _number(BLOCKS / name / "size")
    )


def _rotating(name: str) -> bool | None:
    text = _text(BLOCKS / name / "queue/rotational").strip()
    return text == "1" if text in {"0", "1"} else None


def _free_by_drive(mounts: str) -> dict[str, int]:
    """Free bytes on the mounted file systems of each drive; a file system counts once."""
    free: dict[str, int] = {}
    seen = set()
    for line in mounts.splitlines():
        device, _, rest = line.partition(" ")
        if not device.startswith("/dev/") or device in seen:
            continue
        seen.add(device)
        try:
            space = os.statvfs(unescaped(rest.partition(" ")[0]))
        except (OSError, ValueError):
            continue  # not there any more, or a name no file can have
        for drive in _drives_under(os.path.basename(os.path.realpath(device))):
            free[drive] = free.get(drive, 0) + space.f_bavail * space.f_frsize
    return free


def _drives_under(block: str) -> list[str]:
    """Drives that a partition, or a volume stacked on others, lies on."""
    folder = (BLOCK_CLASS / block).resolve()
    if (folder / "partition").exists():
        return [folder.parent.name]
    below = folder / "slaves"
    stacked = sorted(os.listdir(below)) if below.is_dir() else []
    return [drive for slave in stacked for drive in _drives_under(slave)] or [block]


def unescaped(path: str) -> str:
    """Mount points in /proc/self/mounts write blanks and the like in octal."""
    return re.sub(r"\\([0-3][0-7]{2})", lambda octal: chr(int(octal[1], 8)), path)


def _number(path: Path) -> int:
    text = _text(path).strip()
    return int(text) if text.isdigit() else 0


def _text(path: Path) -> str:
    try:
        return path.read_text("utf-8", "replace")
    except OSError:
        return ""
