"""Whether file systems want to be checked: by the kernel's account, and by their own.

The kernel's counts of errors are for everybody (/sys/fs/ext4). When a check is due stands in the
file system's superblock (kernel documentation, filesystems/ext4), which only the administrator
may read.
"""

import struct
from pathlib import Path

KINDS = frozenset({"ext2", "ext3", "ext4"})
BEGINS_AT, BYTES, MAGIC = 1024, 1024, 0xEF53
HAS_ERRORS = 2


def errors_counted(device: str, root: Path) -> int | None:
    """Errors the kernel has ever found in a file system, by its device; None where it counts
    none.
    """
    name = device.rpartition("/")[2]
    try:
        text = (root / "sys/fs/ext4" / name / "errors_count").read_bytes()[:32].strip()
    except (OSError, ValueError):
        return None
    return int(text) if text.isdigit() and len(text) < 10 else None


def check_due(device: Path, now: float) -> bool | None:
    """Whether the file system on a device wants to be checked; None where nobody may know.

    ``now`` is in seconds of the epoch.
    """
    try:
        with device.open("rb") as file:
            file.seek(BEGINS_AT)
            block = file.read(BYTES)
    except (OSError, ValueError):
        return None
    if len(block) < BYTES or struct.unpack_from("<H", block, 56)[0] != MAGIC:
        return None
    mounted, most, _, state = struct.unpack_from("<HhHH", block, 52)
    checked, interval = struct.unpack_from("<II", block, 64)
    too_often = 0 < most <= mounted
    too_long = interval > 0 and now >= checked + interval
    return bool(state & HAS_ERRORS) or too_often or too_long
