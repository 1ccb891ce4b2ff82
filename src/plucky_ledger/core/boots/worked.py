"""Who worked in a boot until it had settled, kept with the boot: what rounds are compared by."""

from dataclasses import replace

from plucky_ledger.core.boots.analysis import Analysis
from plucky_ledger.core.boots.attribution import KERNEL_THREADS, SYSTEM, Owner, OwnerKind
from plucky_ledger.core.boots.boot import Boot
from plucky_ledger.core.boots.marks import Mark, Marks
from plucky_ledger.core.boots.memory import Memory
from plucky_ledger.core.boots.owner_use import OwnerUse
from plucky_ledger.core.boots.programs import ProgramRun
from plucky_ledger.core.boots.samples import Samples
from plucky_ledger.core.boots.settle import calm_seconds
from plucky_ledger.core.boots.usage import use_by_owner, use_of_runs
from plucky_ledger.core.boots.work import Worked
from plucky_ledger.core.entries.entry import StartupEntry
from plucky_ledger.core.entries.kinds import KINDS, another_person

LEAST_CPU_SECONDS = 0.5
"""What worked for less is not kept: it moves no figure by what anybody would notice."""
MOST_KEPT = 40
SWITCHED_ON = "enabled"


def with_figures(analysis: Analysis) -> Boot:
    """The boot with its figures in every measure, and who worked in it."""
    marks = _with_idle(analysis.boot.marks, analysis.samples)
    analysis = replace(analysis, boot=replace(analysis.boot, marks=marks))
    boot = replace(analysis.boot, readings=analysis.readings)
    context = replace(boot.context, worked=who_worked(analysis))
    return replace(boot, context=context)


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
    """Who worked until it had settled, or until the recording ended: who most, first."""
    attribution, samples = analysis.attribution, analysis.samples
    if attribution is None or samples is None or not analysis.boot.is_start:
        return ()
    until = analysis.settled_at or samples.end
    runs = analysis.timeline.runs
    entries = {entry.entry_id: entry for entry in analysis.timeline.entries}
    found = [
        _worked(entries.get(owner.entry_id), owner, use)
        for owner, use in use_by_owner(attribution, runs, 0.0, until).items()
        if owner.kind is OwnerKind.ENTRY
    ]
    of_nobody = [
        run
        for run in runs
        if attribution.owners[run.run] == SYSTEM and KERNEL_THREADS not in (run.pid, run.parent_pid)
    ]
    by_name: dict[str, list[ProgramRun]] = {}
    for run in of_nobody:
        by_name.setdefault(run.name, []).append(run)
    memory = Memory(runs)
    found += [
        _of_use(name, use_of_runs(attribution, same, memory, 0.0, until))
        for name, same in by_name.items()
    ]
    weighing = [one for one in found if one.cpu_seconds >= LEAST_CPU_SECONDS]
    return tuple(sorted(weighing, key=lambda one: -one.cpu_seconds)[:MOST_KEPT])


def _worked(entry: StartupEntry | None, owner: Owner, use: OwnerUse) -> Worked:
    name = entry.name if entry is not None else owner.entry_id
    return _of_use(name, use, owner.entry_id, by_itself=_starts_by_itself(entry))


def _starts_by_itself(entry: StartupEntry | None) -> bool:
    """Whether it is started whatever else is: what its manager does not call switched on may be
    there because others need it.
    """
    if entry is None:
        return False
    every = KINDS[entry.kind].every_start or bool(another_person(entry.entry_id))
    return every or entry.file_state == SWITCHED_ON or bool(entry.schedule)


def _of_use(name: str, use: OwnerUse, entry_id: str = "", by_itself: bool = True) -> Worked:
    return Worked(
        name=name,
        entry_id=entry_id,
        cpu_seconds=round(use.cpu_seconds, 2),
        bytes_read=round(use.bytes_read),
        memory_bytes=round(use.memory_bytes),
        by_itself=by_itself,
    )
