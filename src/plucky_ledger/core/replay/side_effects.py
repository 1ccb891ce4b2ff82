"""What stays may miss what goes: files that were read before it, or what it waits for in steps.

A replay moves work; it does not know that one program finds in memory what another has read, nor
that one looks again and again whether another is there. Where a boot shows either, a plan without
the other may win less than it seems, or lose.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from itertools import pairwise

import numpy as np

from plucky_ledger.core.boots.analysis import Analysis
from plucky_ledger.core.boots.attribution import Attribution, OwnerKind
from plucky_ledger.core.boots.programs import ProgramRun

LEAST_BYTES = 20e6
"""Less that was not read from the drive is no matter."""
SHORTLY_SECONDS = 30.0
"""So soon after one has read, another that finds it in memory begins."""
HELD_SHARE = 0.5
"""Who holds more than this of what it read has read it for itself."""
READ_AGAIN = 1.5
"""By how much longer it takes those who read it piece by piece."""
FEWEST_STEPS = 3
LONGEST_STEP_SECONDS = 10.0
UNEVEN = 0.5
"""Share by which steps may differ from their mean length."""
LEAST_STEPS_MISSED = 10
"""Who waits in steps for what never comes gives up after so many, at least."""


class Miss(StrEnum):
    """How one misses another."""

    CACHE = "cache"
    """It would have to read itself what the other has read."""
    POLLED = "polled"
    """It waits in steps until the other is there."""


@dataclass(frozen=True)
class SideEffect:
    """One entry that another misses."""

    entry_id: str
    missed_by: str
    """Id of the entry that stays."""
    how: Miss
    seconds: float
    """By so much less a plan without it may win."""


def side_effects(analysis: Analysis, drive_seconds: Mapping[str, float]) -> list[SideEffect]:
    """Who misses whom in a boot; ``drive_seconds`` is how long the drive worked for each entry."""
    attribution, settled = analysis.attribution, analysis.settled_at
    if attribution is None or settled is None:
        return []
    by_entry: dict[str, list[ProgramRun]] = {}
    for run in analysis.timeline.runs:
        owner = attribution.owners[run.run]
        if owner.kind is OwnerKind.ENTRY and run.started < settled:
            by_entry.setdefault(owner.entry_id, []).append(run)
    return [
        *_caches(by_entry, attribution, settled, drive_seconds),
        *_polled(by_entry, {a.entry_id: a.up_at for a in analysis.timeline.activities}),
    ]


def _caches(
    by_entry: Mapping[str, Sequence[ProgramRun]],
    attribution: Attribution,
    settled: float,
    drive_seconds: Mapping[str, float],
) -> Iterable[SideEffect]:
    """Entries that were over before settled, and had read much more than they held."""
    for entry_id, runs in by_entry.items():
        read = sum(_last(attribution.by_run[run.run].bytes_read) for run in runs)
        held = sum(float(run.memory_bytes.max(initial=0.0)) for run in runs)
        over = max((run.ended or np.inf for run in runs), default=np.inf)
        if read < LEAST_BYTES or held > HELD_SHARE * read or over > settled:
            continue
        begun = min(run.started for run in runs)
        for other, others in by_entry.items():
            late = [run for run in others if begun < run.started <= over + SHORTLY_SECONDS]
            found = sum(_found_in_memory(run) for run in late)
            if other != entry_id and found >= LEAST_BYTES:
                seconds = READ_AGAIN * drive_seconds.get(entry_id, 0.0) * min(1.0, found / read)
                yield SideEffect(entry_id, other, Miss.CACHE, seconds)


def _found_in_memory(run: ProgramRun) -> float:
    """Bytes of files that a run holds and nobody beside it, and that it did not read from the drive
    itself; 0 where nobody knows.
    """
    if not len(run.seconds):
        return 0.0
    of_files = run.proportional_bytes - (run.memory_bytes - run.shared_bytes)
    missing = of_files - np.nan_to_num(run.bytes_read)
    return max(0.0, float(np.nan_to_num(missing).max()))


def _polled(
    by_entry: Mapping[str, Sequence[ProgramRun]], up_at: Mapping[str, float | None]
) -> Iterable[SideEffect]:
    """Entries that were up just when another had stopped to look, in even steps, for something."""
    for waiting, runs in by_entry.items():
        for begin, end, step in _waits_in_steps(runs):
            for entry_id, up in up_at.items():
                if entry_id != waiting and up is not None and end - step <= up <= end + 0.5:
                    seconds = max(end - begin, LEAST_STEPS_MISSED * step)
                    yield SideEffect(entry_id, waiting, Miss.POLLED, seconds)


def _waits_in_steps(runs: Sequence[ProgramRun]) -> Iterable[tuple[float, float, float]]:
    """Stretches in which a run started the same short program again and again, one after the other:
    from when, until when, and how long each step was.
    """
    children: dict[tuple[int, str], list[ProgramRun]] = {}
    for run in runs:
        children.setdefault((run.parent_pid, run.name), []).append(run)
    for each in children.values():
        each.sort(key=lambda run: run.started)
        starts = np.array([run.started for run in each])
        steps = np.diff(starts)
        if len(steps) < FEWEST_STEPS or each[-1].ended is None:
            continue
        step = float(steps.mean())
        even = np.abs(steps - step).max() <= UNEVEN * step
        one_by_one = all(
            run.ended is not None and run.ended <= after.started + UNEVEN * step
            for run, after in pairwise(each)
        )
        if even and one_by_one and 0 < step <= LONGEST_STEP_SECONDS:
            yield float(starts[0]), float(each[-1].ended), step


def _last(column: "np.ndarray[tuple[int, ...], np.dtype[np.float64]]") -> float:
    return float(column[-1]) if len(column) else 0.0
