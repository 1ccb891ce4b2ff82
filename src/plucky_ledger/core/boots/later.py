"""What a PC did after it had settled, by the slow look: work that was only moved, and what is held
once that is over.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from statistics import median

import numpy as np

from plucky_ledger.core.boots.analysis import Analysis
from plucky_ledger.core.boots.attribution import KERNEL_THREADS, SYSTEM, Attribution, OwnerKind
from plucky_ledger.core.boots.programs import ProgramRun
from plucky_ledger.core.boots.readings import MEGABYTE
from plucky_ledger.core.boots.samples import Floats
from plucky_ledger.core.values.measures import Measure

LEAST_LOOK_SECONDS = 240.0
"""A shorter look, as one that a restart ended, does not tell what is held in the end."""
LAST_SAMPLES = 3
"""So many at the end of the look are taken together."""

Worker = tuple[str, str]
"""Id of an entry and "", or "" and the name of a program of no entry."""


@dataclass(frozen=True)
class LaterWork:
    """What one did after the PC had settled."""

    cpu_seconds: float
    at: float
    """Seconds since the kernel started at which half of it was done."""


def looked_on(analysis: Analysis) -> Analysis | None:
    """The slow look of a boot; None where nobody looked."""
    later = analysis.timeline.later
    return replace(analysis, timeline=later) if later is not None else None


def looked_seconds(analysis: Analysis) -> float:
    """For how long somebody looked after it had settled; 0 where nobody did, or nobody knows when
    that was.
    """
    later = analysis.timeline.later
    if later is None or later.samples is None or analysis.settled_at is None:
        return 0.0
    return round(later.samples.end - analysis.settled_at, 1)


def held_later(analysis: Analysis) -> dict[Measure, float]:
    """Memory and processes at the end of the slow look; none where it was short."""
    look = looked_on(analysis)
    samples = look.samples if look is not None else None
    if samples is None or looked_seconds(analysis) < LEAST_LOOK_SECONDS:
        return {}
    held = (samples.memory_held_bytes - samples.own_memory_bytes)[-LAST_SAMPLES:]
    return {
        Measure.MEMORY_HELD: round(median(held.tolist()) / MEGABYTE, 3),
        # The recorder is a process that would not be there otherwise.
        Measure.PROCESSES: median(samples.processes[-LAST_SAMPLES:].tolist()) - 1,
    }


def later_work(analysis: Analysis) -> Mapping[Worker, LaterWork]:
    """CPU work of everybody from when it had settled to the end of the slow look; nothing where
    nobody looked.
    """
    settled, look = analysis.settled_at, looked_on(analysis)
    first = analysis.attribution
    second = look.attribution if look is not None else None
    if settled is None or look is None or first is None or second is None:
        return {}
    instants = np.concatenate((_after(first, settled), second.seconds[1:]))
    then, since = (
        runs_by_worker(attribution, timeline.runs)
        for attribution, timeline in ((first, analysis.timeline), (second, look.timeline))
    )
    found = {}
    for worker in {*then, *since}:
        before = _grown(first, then.get(worker, ()), settled)
        after = _grown(second, since.get(worker, ()), float(second.seconds[0]))
        growth = np.concatenate((before, before[-1] + after[1:]))
        cpu_seconds = float(growth[-1])
        at = float(np.interp(cpu_seconds / 2, growth, instants))
        found[worker] = LaterWork(cpu_seconds, at)
    return found


def runs_by_worker(
    attribution: Attribution, runs: Iterable[ProgramRun]
) -> dict[Worker, list[ProgramRun]]:
    """Runs by the entry they belong to; of no entry, and not the kernel's own, by their name."""
    found: dict[Worker, list[ProgramRun]] = {}
    for run in runs:
        owner = attribution.owners[run.run]
        if owner.kind is OwnerKind.ENTRY:
            found.setdefault((owner.entry_id, ""), []).append(run)
        elif owner == SYSTEM and KERNEL_THREADS not in (run.pid, run.parent_pid):
            found.setdefault(("", run.name), []).append(run)
    return found


def _after(attribution: Attribution, since: float) -> Floats:
    """Its instants from the last before this one on."""
    return attribution.seconds[_first(attribution, since) :]


def _grown(attribution: Attribution, runs: Iterable[ProgramRun], since: float) -> Floats:
    """What some runs had used of the processor since then, at those instants."""
    columns = [attribution.by_run[run.run].cpu_seconds for run in runs]
    total = np.sum(columns, axis=0) if columns else np.zeros(len(attribution.seconds))
    late = total[_first(attribution, since) :]
    return np.asarray(late - late[0])


def _first(attribution: Attribution, since: float) -> int:
    return max(0, int(attribution.seconds.searchsorted(since, side="right")) - 1)
