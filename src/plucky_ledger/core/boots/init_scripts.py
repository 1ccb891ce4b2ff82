"""When an init system's scripts were run, and when all was up: told by their programs alone.

No service manager writes it down. A script that was over between two samples was not seen, and
stays without times.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from itertools import pairwise

from plucky_ledger.core.boots.marks import Mark, Marks
from plucky_ledger.core.boots.programs import ProgramRun, parents_of
from plucky_ledger.core.boots.stages import Stage, StageKind
from plucky_ledger.core.boots.timeline import Activity
from plucky_ledger.core.entries.commands import CommandLine, unwrapped
from plucky_ledger.core.entries.entry import EntryKind, StartupEntry
from plucky_ledger.core.entries.kinds import FIRST_PERSON

FIRST = 1
"""Pid of the init system itself."""
SUPERVISOR = "runsv"
"""What runs each service of its own folder; its one argument is the folder. runsv(8)."""
Ran = Mapping[str, Sequence[tuple[ProgramRun, CommandLine]]]
"""Program runs with their commands, by the program."""
_RUN = "/run"
START = "start"
SEEN_LATE_SECONDS = 0.4
"""By how much a script may have been over before its process was seen to be gone."""
_GOES_THROUGH = {
    "rc": frozenset("12345"),
    "openrc": frozenset({"default"}),
    "run_sysv_scripts": frozenset({"/etc/rc2.d"}),
    "async-timeout": frozenset({"/etc/rc2.d"}),
}
"""Programs that run the scripts of a level one after the other, and the levels of a start."""


def started_as(entry: StartupEntry) -> CommandLine | None:
    """The command by which an init system runs an entry; None for any other entry."""
    if entry.kind is not EntryKind.INIT_SCRIPT or not entry.origin:
        return None
    if entry.origin.endswith(_RUN):
        return CommandLine(SUPERVISOR, (entry.origin.removesuffix(_RUN).rpartition("/")[2],))
    return CommandLine(entry.origin)


def with_script_times(
    activities: Iterable[Activity], entries: Sequence[StartupEntry], runs: Sequence[ProgramRun]
) -> tuple[Activity, ...]:
    """The activities of scripts with the times of their runs: starting while the script runs, up
    when it has ended. What is supervised, or only seen by the program that its script starts, is up
    as soon as that is there.
    """
    scripts = {entry.entry_id: entry for entry in entries if started_as(entry)}
    if not scripts:
        return tuple(activities)
    by_program: dict[str, list[tuple[ProgramRun, CommandLine]]] = {}
    for run in runs:
        for command in {unwrapped(run.command), unwrapped(run.came_as)}:
            by_program.setdefault(command.program, []).append((run, command))
    timed = [_timed(one, scripts.get(one.entry_id), by_program) for one in activities]
    timed = _one_after_the_other(timed, scripts)
    return tuple(_up_before_others(one, timed) for one in timed)


def _one_after_the_other(
    timed: list[Activity], scripts: Mapping[str, StartupEntry]
) -> list[Activity]:
    """The activities, each script waiting for the one before it where no two were run at once: then
    they are run in turn, whatever they say that they wait for.
    """
    order = sorted(
        (
            one
            for one in timed
            if one.starting_from is not None
            and one.entry_id in scripts
            and not scripts[one.entry_id].origin.endswith(_RUN)
        ),
        key=lambda one: one.starting_from or 0.0,
    )
    before = {later.entry_id: earlier for earlier, later in pairwise(order)}
    if any(
        (one.starting_from or 0.0) < (before[one.entry_id].up_at or 0.0) - SEEN_LATE_SECONDS
        for one in order[1:]
    ):
        return timed
    return [
        replace(one, after=tuple(dict.fromkeys((*one.after, before[one.entry_id].entry_id))))
        if one.entry_id in before
        else one
        for one in timed
    ]


def _up_before_others(activity: Activity, others: Sequence[Activity]) -> Activity:
    """What was seen to have ended was over before what waited for it began."""
    begin, up = activity.starting_from, activity.up_at
    if begin is None or up is None:
        return activity
    waited = [
        other.starting_from
        for other in others
        if other.starting_from is not None
        and begin < other.starting_from < up
        and activity.entry_id in other.after
    ]
    return replace(activity, up_at=min(waited, default=up))


def _timed(activity: Activity, entry: StartupEntry | None, by_program: Ran) -> Activity:
    command = started_as(entry) if entry is not None else None
    if entry is None or command is None or activity.starting_from is not None:
        return activity
    ran = [
        run
        for run, told in by_program.get(command.program, ())
        if (told.arguments[:1] == command.arguments if command.arguments else _starts(told))
    ]
    supervised = command.program == SUPERVISOR
    if not ran:
        ran = [run for run, _told in by_program.get(unwrapped(entry.command).program, ())]
        supervised = True
    if not ran:
        return activity
    begin = min(run.started for run in ran)
    if supervised:
        return replace(activity, starting_from=begin, up_at=begin)
    # What became another program goes on without its script, as does a part of it that stays.
    scripts = [run for run in ran if unwrapped(run.command).program == command.program]
    ends = [run.ended for run in scripts if run.ended is not None]
    hangs = bool(scripts) and not ends
    return replace(activity, starting_from=begin, up_at=None if hangs else max(ends, default=begin))


def _starts(told: CommandLine) -> bool:
    return not told.arguments or START in told.arguments


def with_marks_of_scripts(
    marks: Marks, entries: Sequence[StartupEntry], runs: Sequence[ProgramRun]
) -> Marks:
    """The marks with those that only programs tell of, where an init system starts them: the system
    is up when the last script of the start had been run, and somebody could sign in as soon as the
    program was there by which they did.
    """
    if not _has_scripts(entries):
        return marks
    told = dict(marks)
    through = min(filter(_goes_through, runs), key=lambda run: run.started, default=None)
    if through is not None and through.ended is not None:
        told.setdefault(Mark.SYSTEM_UP, through.ended)
    shown, signed_in = _sign_in_program(runs), marks.get(Mark.SIGNED_IN)
    if shown is not None and signed_in is not None and shown.started <= signed_in:
        told.setdefault(Mark.SIGN_IN_SHOWN, shown.started)
    return told


def stages_of_scripts(
    stages: tuple[Stage, ...], entries: Sequence[StartupEntry], runs: Sequence[ProgramRun]
) -> tuple[Stage, ...]:
    """The stages with the kernel's own, until the first process began, where an init system did."""
    first = next((run for run in runs if run.pid == FIRST), None)
    if stages or first is None or first.started <= 0 or not _has_scripts(entries):
        return stages
    return (Stage(StageKind.KERNEL, 0.0, first.started),)


def _has_scripts(entries: Sequence[StartupEntry]) -> bool:
    return any(entry.kind is EntryKind.INIT_SCRIPT for entry in entries)


def _goes_through(run: ProgramRun) -> bool:
    command = unwrapped(run.command)
    levels = _GOES_THROUGH.get(command.name, frozenset())
    return bool(levels & set(command.arguments))


def _sign_in_program(runs: Sequence[ProgramRun]) -> ProgramRun | None:
    """The program of the first process behind the first program of a person."""
    people = [run for run in runs if run.user_id >= FIRST_PERSON]
    run = min(people, key=lambda run: run.started, default=None)
    parents, seen = parents_of(tuple(runs)), set[int]()
    while run is not None and run.parent_pid != FIRST:
        if run.run in seen:  # what a recording says may go round in a circle
            return None
        seen.add(run.run)
        run = parents.get(run.run)
    return run
