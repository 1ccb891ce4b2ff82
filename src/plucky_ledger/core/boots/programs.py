"""Program runs: what one process of one program used over a boot."""

from bisect import bisect_right
from dataclasses import dataclass

from plucky_ledger.core.boots.samples import Floats

BORN_WITHIN_SECONDS = 0.02
"""How much later than its child a parent may seem to have begun: both are rounded."""
MOST_REUSES = 50
"""How many runs with its pid are looked at for a parent, the newest first."""


@dataclass(frozen=True, kw_only=True, eq=False)
class ProgramRun:
    """One run of one program, known by (pid, start tick): the pid alone is reused.

    The columns have shape ``(m,)``, one row per instant at which something had changed.
    """

    run: int
    """Number of the run within the recording."""
    pid: int
    start_tick: int
    """Clock tick since the kernel started at which the process began."""
    parent_pid: int
    name: str
    command: str
    user_id: int
    control_group: str
    started: float
    """Seconds since the kernel started."""
    seconds: Floats
    cpu_seconds: Floats
    """Cumulative."""
    memory_bytes: Floats
    """Resident at that instant."""
    children_cpu_seconds: Floats
    """Cumulative: CPU time of its children that have ended."""
    shared_bytes: Floats
    """Of the resident memory, what others may share; NaN where unknown."""
    proportional_bytes: Floats
    """Resident memory with each shared page counted in parts; NaN where unknown."""
    queued_seconds: Floats
    """Cumulative: how long its work waited for a core, all threads together; NaN where unknown."""
    faulted_bytes: Floats
    """Cumulative: memory it had page faults for, at most so much it has written; NaN where
    unknown."""
    bytes_read: Floats
    """Cumulative, with what its ended children had read; NaN where the reader had no permission:
    unknown is not zero."""
    bytes_written: Floats
    """Cumulative, with what its ended children had written; NaN where unknown."""
    ended: float | None = None
    """First sample instant at which it was gone; None while it still ran at the end."""
    own: bool = False
    """True for the recorder itself."""
    came_as: str = ""
    """Its command when it was first seen; the same unless it became another program."""


def value_at(run: ProgramRun, column: Floats, instant: float) -> float:
    """Last value at or before ``instant``; 0 before the first."""
    index = int(run.seconds.searchsorted(instant, side="right")) - 1
    return float(column[index]) if index >= 0 else 0.0


def parents_of(runs: tuple[ProgramRun, ...]) -> dict[int, ProgramRun]:
    """Parent run of each run: pids are reused, so the one that was there when it began."""
    by_pid: dict[int, list[ProgramRun]] = {}
    for run in sorted(runs, key=_started):
        by_pid.setdefault(run.pid, []).append(run)
    parents = {}
    for run in runs:
        candidates = by_pid.get(run.parent_pid, [])
        begun = bisect_right(candidates, run.started + BORN_WITHIN_SECONDS, key=_started)
        for other in reversed(candidates[max(0, begun - MOST_REUSES) : begun]):
            if other is not run and (other.ended is None or other.ended >= run.started):
                parents[run.run] = other
                break
    return parents


def _started(run: ProgramRun) -> float:
    return run.started
