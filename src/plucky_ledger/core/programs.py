"""Program runs: what one process of one program used over a boot."""

from dataclasses import dataclass
from math import isnan, nan

from plucky_ledger.core.samples import Floats


@dataclass(frozen=True, eq=False)
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
    bytes_read: Floats
    """Cumulative, with what its ended children had read; NaN where the reader had no permission:
    unknown is not zero."""
    bytes_written: Floats
    """Cumulative, with what its ended children had written; NaN where unknown."""
    ended: float | None = None
    """First sample instant at which it was gone; None while it still ran at the end."""
    own: bool = False
    """True for the recorder itself."""


@dataclass(frozen=True)
class ProgramUse:
    """What all runs of one program used within a span of time."""

    name: str
    command: str
    users: tuple[int, ...]
    runs: int
    cpu_seconds: float
    memory_bytes: float
    """Held at the end of the span, all runs together; shared pages count in each."""
    bytes_read: float | None
    """None where it could not be read."""
    processes: int
    """Still running at the end of the span."""
    own: bool
    """Caused by the measurement itself, so kept out of the sums."""


def use_by_program(
    runs: tuple[ProgramRun, ...], start: float, end: float
) -> tuple[ProgramUse, ...]:
    """Use of each program between ``start`` and ``end`` (seconds), most CPU work first.

    Runs belong together when program name and command's first word are the same.
    """
    groups: dict[tuple[str, str, bool], list[ProgramRun]] = {}
    for run in runs:
        if run.started <= end and (run.ended is None or run.ended > start):
            executable = run.command.split(" ", 1)[0]
            groups.setdefault((run.name, executable, run.own), []).append(run)
    uses = [_use(group, start, end) for group in groups.values()]
    return tuple(sorted(uses, key=lambda use: (-use.cpu_seconds, use.name)))


def _use(group: list[ProgramRun], start: float, end: float) -> ProgramUse:
    alive = [run for run in group if run.ended is None or run.ended > end]
    read = [_grown(run, run.bytes_read, start, end) for run in group]
    known = [amount for amount in read if not isnan(amount)]
    return ProgramUse(
        name=group[0].name,
        command=max((run.command for run in group), key=len),
        users=tuple(sorted({run.user_id for run in group})),
        runs=len(group),
        cpu_seconds=sum(_grown(run, run.cpu_seconds, start, end) for run in group),
        memory_bytes=sum(value_at(run, run.memory_bytes, end) for run in alive),
        bytes_read=sum(known) if known else None,
        processes=len(alive),
        own=group[0].own,
    )


def value_at(run: ProgramRun, column: Floats, instant: float) -> float:
    """Last value at or before ``instant``; 0 before the first."""
    index = int(run.seconds.searchsorted(instant, side="right")) - 1
    return float(column[index]) if index >= 0 else 0.0


def _grown(run: ProgramRun, column: Floats, start: float, end: float) -> float:
    """Growth of a cumulative column in the span. A run's counters begin at zero with it."""
    before = value_at(run, column, start) if run.started < start else 0.0
    return max(0.0, value_at(run, column, end) - before) if not isnan(before) else nan
