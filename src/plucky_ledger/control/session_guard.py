"""What carries the session of who sits at the PC: ending it would sign them out."""

import os
import re
from collections.abc import Iterable, Sequence
from contextlib import suppress
from pathlib import Path

from plucky_ledger.control.running import PROC, RunningProcess

SESSION_SCOPE = re.compile(r"/session-[^/]+\.scope(/|$)")
CARRY_A_SESSION = re.compile(
    r"/tmp/\.X11-unix/X\d+"  # noqa: S108 where the display listens
    r"|/run/user/\d+/(wayland-\d+|bus|systemd/private)"
)
"""Sockets that a session lives by: its display, its bus, its service manager."""


def carriers(running: Sequence[RunningProcess], proc: Path = PROC) -> set[int]:
    """Pids of what a session cannot do without: whatever started this program, the first programs
    of every session, and who listens at the sockets that sessions live by.
    """
    parents = {process.pid: process.parent for process in running}
    return {
        *_ancestors(os.getpid(), parents),
        *_first_of_sessions(running),
        *_listeners(running, proc),
    }


def _ancestors(pid: int, parents: dict[int, int]) -> Iterable[int]:
    while (pid := parents.get(pid, 0)) > 0:
        yield pid


def _first_of_sessions(running: Sequence[RunningProcess]) -> Iterable[int]:
    """The first in the scope of each session, and what it started while that is one program."""
    scopes: dict[str, list[RunningProcess]] = {}
    for process in running:
        if found := SESSION_SCOPE.search(process.group):
            scopes.setdefault(process.group[: found.end()].rstrip("/"), []).append(process)
    for members in scopes.values():
        children: dict[int, list[int]] = {}
        for process in members:
            children.setdefault(process.parent, []).append(process.pid)
        # What a session's program started and let go of has another parent, and began later.
        pid = min(members, key=lambda process: process.started_ticks).pid
        yield pid
        while len(children.get(pid, ())) == 1:
            (pid,) = children[pid]
            yield pid


def _listeners(running: Iterable[RunningProcess], proc: Path) -> Iterable[int]:
    """As far as their open files may be read: others cannot be ended from here either."""
    sockets = _session_sockets(proc)
    for process in running if sockets else ():
        with suppress(OSError):
            for file in (proc / str(process.pid) / "fd").iterdir():
                if os.readlink(file) in sockets:
                    yield process.pid
                    break


def _session_sockets(proc: Path) -> set[str]:
    """Sockets that listen where sessions look for theirs, as open files are called. unix(7)."""
    found = set()
    with suppress(OSError):
        for line in (proc / "net/unix").read_text("utf-8", "replace").splitlines()[1:]:
            fields = line.split()
            listens = len(fields) == 8 and int(fields[3], 16) & 0x10000
            if listens and CARRY_A_SESSION.fullmatch(fields[7]):
                found.add(f"socket:[{fields[6]}]")
    return found
