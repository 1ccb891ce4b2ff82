"""Armed recorders that are at work now, and ending them: what they have is kept."""

import logging
import os
import signal
import time
from contextlib import suppress
from pathlib import Path

PROC = Path("/proc")
ENDS_WITHIN_SECONDS = 15.0
"""A recorder asks nobody any more once it is told to end, and writes what it has."""
LOOK_AGAIN_SECONDS = 0.05
LARGEST_BYTES = 65_536
log = logging.getLogger(__name__)


def recorders_of(starter: Path, proc: Path = PROC) -> list[int]:
    """Process ids of recorders that a starter has started for this user, this process left out.

    A recorder is known by its last word, which is the starter. What it has started itself ends
    with it.
    """
    wanted, user = os.fsencode(starter), os.geteuid()
    found = {}
    for folder in proc.iterdir():
        if folder.name.isdecimal():
            with suppress(OSError, ValueError, IndexError):
                words = (folder / "cmdline").read_bytes()[:LARGEST_BYTES].split(b"\0")
                if words[-2:-1] == [wanted] and folder.stat().st_uid == user:
                    stat = (folder / "stat").read_bytes()
                    found[int(folder.name)] = int(stat[stat.rindex(b")") + 2 :].split()[1])
    return [pid for pid, parent in found.items() if pid != os.getpid() and parent not in found]


def end_recorders(starter: Path) -> bool:
    """Have them end, and wait until they have; False where there was none."""
    running = recorders_of(starter)
    for pid in running:
        log.info("ending the recorder %d", pid)
        with suppress(ProcessLookupError, PermissionError):
            os.kill(pid, signal.SIGTERM)
    deadline = time.monotonic() + ENDS_WITHIN_SECONDS
    while recorders_of(starter) and time.monotonic() < deadline:
        time.sleep(LOOK_AGAIN_SECONDS)
    return bool(running)
