"""What runs on this PC now, as the kernel lists it."""

import os
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

from plucky_ledger.linux.files import read_bounded

PROC = Path("/proc")
LARGEST_BYTES = 65_536


@dataclass(frozen=True, kw_only=True)
class RunningProcess:
    """One running process."""

    pid: int
    parent: int
    started_ticks: int
    name: str
    program: str
    user: int
    group: str


def processes(proc: Path = PROC) -> list[RunningProcess]:
    """Every process that can be read; those that vanish meanwhile are left out."""
    found = []
    for folder in proc.iterdir():
        if folder.name.isdigit():
            with suppress(OSError, ValueError, IndexError):
                found.append(_process(folder))
    return found


def _process(folder: Path) -> RunningProcess:
    text = read_bounded(folder / "stat", LARGEST_BYTES).decode("utf-8", "replace")
    begin, end = text.index("("), text.rindex(")")
    fields = text[end + 2 :].split()
    words = read_bounded(folder / "cmdline", LARGEST_BYTES).split(b"\0")
    groups = read_bounded(folder / "cgroup", LARGEST_BYTES).decode("utf-8", "replace")
    group = groups.splitlines()[-1].split(":", 2)[2] if groups else ""
    program = words[0].decode("utf-8", "replace")
    with suppress(OSError):
        program = os.readlink(folder / "exe")
    return RunningProcess(
        pid=int(folder.name),
        parent=int(fields[1]),
        started_ticks=int(fields[19]),
        name=text[begin + 1 : end],
        program=program,
        user=folder.stat().st_uid,
        group=group,
    )
