"""Who worked in a boot until it had settled, kept with the boot: what rounds are compared by."""

from dataclasses import replace

from plucky_ledger.core.boots.analysis import Analysis
from plucky_ledger.core.boots.boot import Boot
from plucky_ledger.core.boots.later import (
    LaterWork,
    Worker,
    held_later,
    later_work,
    looked_seconds,
    runs_by_worker,
)
from plucky_ledger.core.boots.marks import Mark, Marks
from plucky_ledger.core.boots.memory import Memory
from plucky_ledger.core.boots.owner_use import OwnerUse
from plucky_ledger.core.boots.samples import Samples
from plucky_ledger.core.boots.samples_table import untold_in
from plucky_ledger.core.boots.settle import calm_seconds
from plucky_ledger.core.boots.usage import use_of_runs
from plucky_ledger.core.boots.work import KEPT_CPU_SECONDS, KEPT_LATER_CPU_SECONDS, Worked
from plucky_ledger.core.entries.entry import StartupEntry
from plucky_ledger.core.entries.kinds import KINDS, another_person

MOST_KEPT = 40
SWITCHED_ON = "enabled"
NOTHING_LATER = LaterWork(0.0, 0.0)


def with_figures(analysis: Analysis) -> Boot:
    """The boot with its figures in every measure, who worked in it, and what came later."""
    marks = _with_idle(analysis.boot.marks, analysis.samples)
    analysis = replace(analysis, boot=replace(analysis.boot, marks=marks))
    context = replace(
        analysis.boot.context,
        worked=who_worked(analysis),
        looked_seconds=looked_seconds(analysis),
        held_later=held_later(analysis),
    )
    untold = untold_in(context.notes)
    readings = {one: value for one, value in analysis.readings.items() if one not in untold}
    return replace(analysis.boot, readings=readings, context=context)


def _with_idle(marks: Marks, samples: Samples | None) -> Marks:
    """The marks with how much of the wait at sign-in was a person's: what still started meanwhile
    was the machine's own time, however long somebody fetched coffee.
    """
    seen: dict[Mark, float] = {
        mark: at for mark, at in marks.items() if mark is not Mark.SIGN_IN_IDLE
    }
    shown, signed_in = seen.get(Mark.SIGN_IN_SHOWN), seen.get(Mark.SIGNED_IN)
    if samples is None or shown is None or signed_in is None or samples.seconds[0] > shown:
        return seen
    return {
        **seen,
        Mark.SIGN_IN_IDLE: round(signed_in - calm_seconds(samples, shown, signed_in), 3),
    }


def who_worked(analysis: Analysis) -> tuple[Worked, ...]:
    """Who worked until it had settled, or until the recording ended, and who did later: who most,
    first.
    """
    attribution, samples = analysis.attribution, analysis.samples
    if attribution is None or samples is None or not analysis.boot.is_start:
        return ()
    until = analysis.settled_at or samples.end
    later, memory = later_work(analysis), Memory(analysis.timeline.runs)
    runs = runs_by_worker(attribution, analysis.timeline.runs)
    entries = {entry.entry_id: entry for entry in analysis.timeline.entries}
    found = [
        _worked(
            worker,
            entries.get(worker[0]),
            use_of_runs(attribution, runs.get(worker, ()), memory, 0.0, until),
            later.get(worker, NOTHING_LATER),
        )
        for worker in {**runs, **later}
    ]
    weighing = [one for one in found if _weighs(one)]
    return tuple(sorted(weighing, key=_work, reverse=True)[:MOST_KEPT])


def _weighs(worked: Worked) -> bool:
    until_settled = worked.cpu_seconds >= KEPT_CPU_SECONDS
    return until_settled or worked.later_cpu_seconds >= KEPT_LATER_CPU_SECONDS


def _work(worked: Worked) -> float:
    return max(worked.cpu_seconds, worked.later_cpu_seconds)


def _starts_by_itself(entry: StartupEntry | None) -> bool:
    """Whether it is started whatever else is: what its manager does not call switched on may be
    there because others need it.
    """
    if entry is None:
        return False
    every = KINDS[entry.kind].every_start or bool(another_person(entry.entry_id))
    return every or entry.file_state == SWITCHED_ON or bool(entry.schedule)


def _worked(worker: Worker, entry: StartupEntry | None, use: OwnerUse, later: LaterWork) -> Worked:
    entry_id, program = worker
    return Worked(
        name=entry.name if entry is not None else entry_id or program,
        entry_id=entry_id,
        cpu_seconds=round(use.cpu_seconds, 2),
        bytes_read=round(use.bytes_read),
        memory_bytes=round(use.memory_bytes),
        by_itself=_starts_by_itself(entry) if entry_id else True,
        later_cpu_seconds=round(later.cpu_seconds, 2),
        later_at=round(later.at, 1),
    )
