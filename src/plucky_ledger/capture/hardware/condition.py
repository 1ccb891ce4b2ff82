"""What state this PC is in: firmware's tables, file systems, drives, heat, swap, power.

All of it is read from what the kernel, and the device manager's database, let anybody read:
sysfs and procfs (kernel documentation, ABI/testing), and /run/udev/data, where the device manager
keeps what it read of the firmware's memory table (System Management BIOS, type 16 and 17).
"""

import logging
import os
import re
import time
from collections.abc import Callable, Iterator, Sequence
from pathlib import Path

import msgspec

from plucky_ledger.capture.hardware.drive_commands import health_by_the_drive
from plucky_ledger.capture.hardware.drive_log import drive_errors
from plucky_ledger.capture.hardware.drive_service import health_by_the_service
from plucky_ledger.capture.hardware.facts import unescaped
from plucky_ledger.capture.hardware.superblock import KINDS, check_due, errors_counted
from plucky_ledger.capture.log.journal_stream import NoJournal
from plucky_ledger.linux.bus import NoAnswer
from plucky_ledger.linux.users import is_administrator
from plucky_ledger.recording.condition import (
    ConditionLine,
    DriveHealthFacts,
    FileSystemFacts,
    ModuleFacts,
)
from plucky_ledger.recording.lines import bounded

log = logging.getLogger(__name__)
MOST = 64
LONGEST = 400
PLACEHOLDERS = frozenset(
    {
        "",
        "none",
        "not specified",
        "unknown",
        "default string",
        "to be filled by o.e.m.",
        "system manufacturer",
        "system product name",
        "o.e.m.",
    }
)
"""Placeholder texts of firmware whose maker filled in nothing."""
VIRTUAL = re.compile(r"(loop|ram|zram|dm-|md|sr|fd)\d*")
REFAULTS = ("workingset_refault_file", "workingset_refault_anon", "workingset_refault")
"""Pages read again soon after they were given up; the last is what older kernels call all."""
VOLUMES = re.compile(r"(root|resume|BOOT_IMAGE|initrd|cryptdevice|rd\.\w+\.uuid|rd\.luks\.\S+?)=")
START_UP_MAKERS = {
    "initramfs-tools": "usr/sbin/update-initramfs",
    "dracut": "usr/bin/dracut",
    "mkinitcpio": "usr/bin/mkinitcpio",
}
"""What makes the start-up file system, by the program that does."""
_MODULE = re.compile(r"E:MEMORY_DEVICE_(\d+)_(\w+)=(.*)")


def condition_lines(
    going_on: Callable[[], bool], root: Path = Path("/")
) -> Iterator[ConditionLine]:
    """The state of the PC whose file system lies at ``root``; what cannot be read stays empty.

    Told again with what the drives themselves say, and with what the log says of them: either may
    take long to answer, or not answer at all.
    """
    condition = _condition(root)
    yield condition
    drives = tuple(_by_themselves(condition.drives, root / "sys/block"))
    condition = msgspec.structs.replace(condition, drives=drives)
    yield condition
    try:
        errors = drive_errors(going_on, root / "sys/block")
    except NoJournal:
        return
    drives = tuple(
        msgspec.structs.replace(drive, errors=errors.get(drive.name, 0))
        for drive in condition.drives
    )
    yield msgspec.structs.replace(condition, drives=drives)


def _by_themselves(drives: Sequence[DriveHealthFacts], blocks: Path) -> Iterator[DriveHealthFacts]:
    """Drives with what they say of themselves: to the administrator, else to the disk service.

    What hangs on a USB port is not sent commands: its bridge may not bear them.
    """
    by_name: dict[str, DriveHealthFacts] = {}
    if is_administrator():
        inside = [d.name for d in drives if "/usb" not in os.path.realpath(blocks / d.name)]
        asked = map(health_by_the_drive, inside)
        by_name = {health.name: health for health in asked if health is not None}
    else:
        try:
            by_name = health_by_the_service()
        except NoAnswer as silence:
            log.info("the disk service: %s", silence.reason)
    for drive in drives:
        health = by_name.get(drive.name)
        yield (
            drive
            if health is None
            else msgspec.structs.replace(
                drive,
                failing=health.failing,
                bad_sectors=health.bad_sectors,
                worn=health.worn,
                hours=health.hours,
                temperature_celsius=drive.temperature_celsius or health.temperature_celsius,
            )
        )


def _condition(root: Path) -> ConditionLine:
    proc, sys = root / "proc", root / "sys"
    modules, slots, most = _memory_table(root / "run/udev/data/+dmi:id")
    swap = _memory_figures(proc / "meminfo")
    mounts = list(_mounts(proc / "self/mounts"))
    swapped = _swap_devices(proc / "swaps")
    compressed = bool(swapped) and all("zram" in device for device in swapped)
    counted = _counters(proc / "vmstat")
    return ConditionLine(
        maker=_firmware_says(sys / "class/dmi/id/sys_vendor"),
        model=_firmware_says(sys / "class/dmi/id/product_name"),
        modules=modules,
        memory_slots=slots,
        most_memory_bytes=most,
        file_systems=tuple(_file_systems(mounts, root)),
        drives=tuple(_drives(sys / "block")),
        swap_total_bytes=swap.get("SwapTotal"),
        swap_used_bytes=_used(swap),
        swap_compressed=compressed,
        killed_for_memory=counted.get("oom_kill"),
        reread_bytes=_pages(counted, REFAULTS),
        swapped_out_bytes=None if compressed else _pages(counted, ("pswpout",)),
        throttled=_throttled(sys / "devices/system/cpu"),
        frequency_limit=_frequency_limit(sys / "devices/system/cpu/cpu0/cpufreq"),
        power_profile=_text(sys / "firmware/acpi/platform_profile"),
        encrypted=_encrypted(mounts, sys / "class/block"),
        kernel_parameters=_parameters(_text(proc / "cmdline")),
        start_up_made_by=next(
            (name for name, path in START_UP_MAKERS.items() if (root / path).exists()), ""
        ),
    )


def _memory_table(
    database: Path,
) -> tuple[tuple[ModuleFacts, ...], int | None, int | None]:
    """Modules fitted, slots, and the most that can be fitted."""
    devices: dict[int, dict[str, str]] = {}
    slots = most = None
    for line in _text(database, 65_536).splitlines():
        found = _MODULE.fullmatch(line)
        if found and len(devices) < MOST:
            devices.setdefault(int(found[1][:4]), {})[found[2]] = found[3]
        elif line.startswith("E:MEMORY_ARRAY_NUM_DEVICES="):
            slots = min(_number(line.partition("=")[2]) or 0, 4096) or None
        elif line.startswith("E:MEMORY_ARRAY_MAX_CAPACITY="):
            most = _number(line.partition("=")[2])
    fitted = tuple(
        ModuleFacts(
            slot=bounded(device.get("LOCATOR", ""), LONGEST),
            size_bytes=size,
            type=bounded(device.get("TYPE", ""), LONGEST),
            megatransfers=_number(
                device.get("CONFIGURED_SPEED_MTS") or device.get("SPEED_MTS") or ""
            ),
        )
        for _, device in sorted(devices.items())
        if device.get("PRESENT") != "0" and (size := _number(device.get("SIZE", "")) or 0)
    )
    return fitted, slots or (len(devices) or None), most


def _mounts(path: Path) -> Iterator[tuple[str, str, str]]:
    """Device, mount point and kind of each file system on a drive; a file system counts once."""
    seen = set()
    for line in _text(path, 1 << 20).splitlines():
        parts = line.split(" ")
        if len(parts) < 3 or not parts[0].startswith("/dev/") or parts[0] in seen:
            continue
        if parts[0].startswith("/dev/loop"):
            continue  # the image of a package: always full
        seen.add(parts[0])
        yield parts[0], unescaped(parts[1]), parts[2]


def _file_systems(mounts: list[tuple[str, str, str]], root: Path) -> Iterator[FileSystemFacts]:
    for device, mount, kind in mounts[:MOST]:
        try:
            room = os.statvfs(mount)
        except (OSError, ValueError):
            continue  # not there any more, or a name no file can have
        if room.f_blocks:
            yield FileSystemFacts(
                mount=bounded(mount, LONGEST),
                type=bounded(kind, LONGEST),
                size_bytes=room.f_blocks * room.f_frsize,
                free_bytes=room.f_bavail * room.f_frsize,
                inodes=room.f_files,
                inodes_free=min(room.f_favail, room.f_files),
                errors=errors_counted(os.path.realpath(device), root),
                check_due=check_due(Path(device), time.time()) if kind in KINDS else None,
            )


def _drives(blocks: Path) -> Iterator[DriveHealthFacts]:
    try:
        names = sorted(os.listdir(blocks))
    except OSError:
        return
    for name in [name for name in names if not VIRTUAL.fullmatch(name)][:MOST]:
        degrees = _temperature(blocks / name / "device")
        model = _text(blocks / name / "device/model")
        yield DriveHealthFacts(bounded(name, LONGEST), model, None, degrees)


def _temperature(device: Path) -> float | None:
    """Degrees that the drive's own sensor tells, where the kernel has a driver for it."""
    for sensor in sorted(
        [*device.glob("hwmon*/temp1_input"), *device.glob("hwmon/hwmon*/temp1_input")]
    )[:1]:
        thousandths = _number(_text(sensor))
        if thousandths is not None and thousandths <= 1_000_000:
            return thousandths / 1000
    return None


def _memory_figures(path: Path) -> dict[str, int]:
    """Bytes by the names of /proc/meminfo."""
    figures = {}
    for line in _text(path, 65_536).splitlines():
        name, _, rest = line.partition(":")
        amount = _number(rest.split()[0]) if rest.split() else None
        if amount is not None:
            figures[name] = amount * 1024
    return figures


def _used(swap: dict[str, int]) -> int | None:
    if "SwapTotal" not in swap or "SwapFree" not in swap:
        return None
    return max(0, swap["SwapTotal"] - swap["SwapFree"])


def _swap_devices(path: Path) -> list[str]:
    return [line.split()[0] for line in _text(path, 65_536).splitlines()[1:] if line.split()]


def _counters(path: Path) -> dict[str, int]:
    """Counters of a file with a name and a number in each line."""
    parts = (line.partition(" ") for line in _text(path, 65_536).splitlines())
    counted = ((name, _number(value)) for name, _, value in parts)
    return {name: value for name, value in counted if value is not None}


def _pages(counted: dict[str, int], names: tuple[str, ...]) -> int | None:
    """Bytes of the pages that were counted; None where the kernel counts none of them."""
    counts = [counted[name] for name in names if name in counted]
    return min(sum(counts) * os.sysconf("SC_PAGE_SIZE"), 2**62) if counts else None


def _throttled(cpus: Path) -> int | None:
    """How often heat held cores down: all packages together, or all cores where only they tell."""
    for name in ("package_throttle_count", "core_throttle_count"):
        counts = [
            count
            for path in sorted(cpus.glob(f"cpu[0-9]*/thermal_throttle/{name}"))[:4096]
            if (count := _number(_text(path))) is not None
        ]
        if counts:
            return max(counts)
    return None


def _frequency_limit(folder: Path) -> float | None:
    """What it may use of its highest frequency."""
    allowed, highest = (
        _number(_text(folder / name)) for name in ("scaling_max_freq", "cpuinfo_max_freq")
    )
    return min(allowed / highest, 1.0) if allowed and highest else None


def _parameters(line: str) -> str:
    """Parameters that say how the kernel starts: which volumes it starts from is nobody's."""
    words = [word for word in line.split() if not VOLUMES.match(word)]
    return bounded(" ".join(words), LONGEST)


def _encrypted(mounts: list[tuple[str, str, str]], blocks: Path) -> bool:
    """Whether the system's volume, or one it is stacked on, is encrypted."""
    device = next((device for device, mount, _ in mounts if mount == "/"), "")
    waiting = [os.path.basename(os.path.realpath(device))] if device else []
    seen: set[str] = set()
    while waiting and len(seen) < MOST:
        name = waiting.pop()
        if name in seen:
            continue
        seen.add(name)
        if _text(blocks / name / "dm/uuid").startswith("CRYPT-"):
            return True
        slaves = blocks / name / "slaves"
        waiting.extend(os.listdir(slaves) if slaves.is_dir() else [])
    return False


def _firmware_says(path: Path) -> str:
    text = _text(path)
    return "" if text.lower() in PLACEHOLDERS else text


def _number(text: str) -> int | None:
    text = text.strip()
    return int(text) if text.isascii() and text.isdigit() and len(text) < 18 else None


def _text(path: Path, most: int = 4096) -> str:
    """The beginning of a file, without blanks about it; empty where it cannot be read."""
    try:
        with path.open("rb") as file:
            return bounded(file.read(most).decode("utf-8", "replace").strip("\0 \t\r\n"), most)
    except (OSError, ValueError):
        return ""
