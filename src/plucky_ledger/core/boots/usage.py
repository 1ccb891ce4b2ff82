"""Resource use of each owner within a span of a boot: startup entries, the system, programs set
aside.
"""

from collections.abc import Mapping, Sequence

import numpy as np

from plucky_ledger.core.boots.attribution import Attribution, Owner, OwnerKind, Work
from plucky_ledger.core.boots.memory import Memory
from plucky_ledger.core.boots.owner_use import OwnerUse
from plucky_ledger.core.boots.programs import ProgramRun, value_at
from plucky_ledger.core.boots.samples import Floats
from plucky_ledger.core.boots.timeline import Timeline


def use_by_owner(
    attribution: Attribution,
    runs: Sequence[ProgramRun],
    start: float,
    end: float,
    held_at: float | None = None,
) -> Mapping[Owner, OwnerUse]:
    """Use of every owner between two instants; CPU and reads sum to the machine's counters.

    Memory and processes are those of the instant ``held_at``, by default the end.
    """
    at = end if held_at is None else held_at
    memory = Memory(runs)
    alive: dict[Owner, list[ProgramRun]] = {}
    for run in runs:
        alive.setdefault(attribution.owners[run.run], []).append(run)
    return {
        owner: _use(attribution.seconds, (work,), alive.get(owner, ()), memory, (start, end), at)
        for owner, work in attribution.work.items()
    }


def use_of_runs(
    attribution: Attribution, runs: Sequence[ProgramRun], memory: Memory, start: float, end: float
) -> OwnerUse:
    """Use of some runs of a boot between two instants."""
    work = [attribution.by_run[run.run] for run in runs]
    return _use(attribution.seconds, work, runs, memory, (start, end), end)


def use_by_program(
    attribution: Attribution, timeline: Timeline, start: float, end: float
) -> list[tuple[list[ProgramRun], OwnerUse]]:
    """Runs and use of each program that was there between two instants.

    Runs belong together when name, command's first word and owner's kind are the same.
    """
    groups: dict[tuple[str, str, OwnerKind], list[ProgramRun]] = {}
    for run in timeline.runs:
        if run.started <= end and (run.ended is None or run.ended > start):
            kind = attribution.owners[run.run].kind
            outside = OwnerKind.ASIDE if kind is OwnerKind.ASIDE else OwnerKind.SYSTEM
            key = (run.name, run.command.split(" ", 1)[0], outside)
            groups.setdefault(key, []).append(run)
    memory = Memory(timeline.runs)
    by_program = []
    for runs in groups.values():
        work = [attribution.by_run[run.run] for run in runs]
        by_program.append((runs, _use(attribution.seconds, work, runs, memory, (start, end), end)))
    return by_program


def _use(
    seconds: Floats,
    work: Sequence[Work],
    runs: Sequence[ProgramRun],
    memory: Memory,
    span: tuple[float, float],
    at: float,
) -> OwnerUse:
    alive = [run for run in runs if run.started <= at and (run.ended is None or run.ended > at)]
    return OwnerUse(
        cpu_seconds=sum(_growth(seconds, amount.cpu_seconds, *span) for amount in work),
        bytes_read=sum(_growth(seconds, amount.bytes_read, *span) for amount in work),
        memory_bytes=sum(memory.of(run, at) for run in alive),
        processes=len(alive),
        bytes_written=sum(_written(run, *span) for run in runs),
    )


def _written(run: ProgramRun, start: float, end: float) -> float:
    column = np.nan_to_num(run.bytes_written)
    before = 0.0 if start <= 0 else value_at(run, column, start)
    return max(0.0, value_at(run, column, end) - before)


def _growth(seconds: Floats, column: Floats, start: float, end: float) -> float:
    """Growth of a cumulative column; what there was before the first sample belongs to a span that
    begins with the boot.
    """
    before = 0.0 if start <= 0 else _at(seconds, column, start)
    return max(0.0, _at(seconds, column, end) - before)


def _at(seconds: Floats, column: Floats, instant: float) -> float:
    index = int(seconds.searchsorted(instant, side="right")) - 1
    return float(column[index]) if index >= 0 else 0.0
