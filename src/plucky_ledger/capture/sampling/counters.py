"""System-wide counters from /proc: CPU, memory and whole drives."""

import os
from pathlib import Path

import msgspec

SECTOR_BYTES = 512
"""Unit of the sector counts in /proc/diskstats, whatever the drive's own sectors are."""


class DiskCounters(msgspec.Struct, frozen=True):
    """Cumulative since the kernel started, over all real drives."""

    bytes_read: int
    bytes_written: int
    busy_seconds: float
    requests: int
    """Reads and writes answered."""
    answer_seconds: float
    """How long those took together; such as went on at once count each."""


def cpu_seconds(stat: bytes, ticks_per_second: int) -> float:
    """CPU time used by everything, from the text of /proc/stat.

    Counts user, nice, system, irq and softirq. Waiting for the disk is no CPU work, and time
    stolen by a host is not this PC's. Guest time is contained in user time.
    """
    fields = stat[: stat.index(b"\n")].split()
    user, nice, system, _idle, _iowait, irq, softirq = map(int, fields[1:8])
    return (user + nice + system + irq + softirq) / ticks_per_second


def threads_at_work(stat: bytes) -> tuple[int, int]:
    """Threads that are runnable, without the one that reads this, and that wait for a drive."""
    counts = dict.fromkeys((b"procs_running", b"procs_blocked"), 0)
    for line in stat[stat.rfind(b"procs_running") :].splitlines():
        name, _, value = line.partition(b" ")
        if name in counts:
            counts[name] = int(value)
    return max(0, counts[b"procs_running"] - 1), counts[b"procs_blocked"]


def memory_bytes(meminfo: bytes) -> tuple[int, int]:
    """Total memory and memory held, in bytes, from the text of /proc/meminfo.

    Held is what cannot be had for new programs: total less available.
    """
    total = available = free = 0
    for line in meminfo.splitlines():
        if line.startswith(b"MemTotal:"):
            total = int(line.split()[1]) * 1024
        elif line.startswith(b"MemFree:"):
            free = int(line.split()[1]) * 1024
        elif line.startswith(b"MemAvailable:"):
            available = int(line.split()[1]) * 1024
            break
    return total, max(0, total - (available or free))


def disk_counters(diskstats: bytes, drives: frozenset[bytes]) -> DiskCounters:
    """Sum over ``drives`` (names as in the file) from the text of /proc/diskstats."""
    read = written = busy_ms = requests = answer_ms = 0
    for line in diskstats.splitlines():
        fields = line.split()
        if len(fields) >= 13 and fields[2] in drives:
            read += int(fields[5])
            written += int(fields[9])
            busy_ms += int(fields[12])
            requests += int(fields[3]) + int(fields[7])
            answer_ms += int(fields[6]) + int(fields[10])
    return DiskCounters(
        read * SECTOR_BYTES, written * SECTOR_BYTES, busy_ms / 1000, requests, answer_ms / 1000
    )


def real_drives(blocks: Path = Path("/sys/block")) -> frozenset[bytes]:
    """Names of the drives that are devices, not loops, RAM disks or volumes stacked on others."""
    try:
        names = os.listdir(blocks)
    except OSError:
        return frozenset()
    return frozenset(name.encode() for name in names if (blocks / name / "device").exists())


class KeptFile:
    """A /proc file kept open and read again from its start: cheaper than opening it each time."""

    def __init__(self, path: Path) -> None:
        self._descriptor = os.open(path, os.O_RDONLY | os.O_CLOEXEC)

    def read(self) -> bytes:
        """The whole text as it is now."""
        data = chunk = os.pread(self._descriptor, 65_536, 0)
        while chunk:
            chunk = os.pread(self._descriptor, 65_536, len(data))
            data += chunk
        return data

    def close(self) -> None:
        os.close(self._descriptor)
