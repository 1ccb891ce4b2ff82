"""Pressure stall information of a control group: how long its work waited for CPU and disk."""

from collections.abc import Iterable, Iterator
from pathlib import Path

import msgspec

from plucky_ledger.recording.lines import ActivityLine, EntryLine, Line

GROUPS = Path("/sys/fs/cgroup")
LARGEST_BYTES = 4096
MICROSECONDS = 1e-6
LONGEST_SECONDS = 86_400.0


def with_pressure(lines: Iterable[Line], groups: Path = GROUPS) -> Iterator[Line]:
    """The same lines, each activity with how long its entry was held up, where that is told.

    What has ended has no group any more.
    """
    known: dict[str, str] = {}
    for line in lines:
        if isinstance(line, EntryLine) and line.group.strip("/"):
            known[line.entry] = line.group
        if isinstance(line, ActivityLine) and line.entry in known:
            group = f"{groups}{known[line.entry]}"
            yield msgspec.structs.replace(
                line,
                cpu_pressure_seconds=held_up(f"{group}/cpu.pressure"),
                io_pressure_seconds=held_up(f"{group}/io.pressure"),
            )
        else:
            yield line


def held_up(path: str) -> float | None:
    """Seconds in which some of a group's work was held up, from its pressure file; None where there
    is none, or nothing in it.
    """
    try:
        with open(path, "rb") as file:
            seconds = pressure_seconds(file.read(LARGEST_BYTES))
    except OSError:
        return None
    return None if seconds is None else min(LONGEST_SECONDS, round(seconds, 3))


def pressure_seconds(text: bytes) -> float | None:
    """Seconds in which some work was held up, from the text of a pressure file (kernel
    documentation, accounting/psi); None where it does not say.
    """
    words = text.partition(b"\n")[0].split()
    totals = [word.removeprefix(b"total=") for word in words if word.startswith(b"total=")]
    if not words or words[0] != b"some" or not totals or not totals[0].isdigit():
        return None
    return int(totals[0]) * MICROSECONDS
