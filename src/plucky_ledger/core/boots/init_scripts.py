"""When an init system's scripts were run, and when all was up: told by their programs alone.

No service manager writes it down. A script that was over between two samples was not seen, and
stays without times.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace

from plucky_ledger.core.boots.marks import Mark, Marks
from plucky_ledger.core.boots.programs import ProgramRun
from plucky_ledger.core.boots.timeline import Activity
from plucky_ledger.core.entries.commands import CommandLine, unwrapped
from plucky_ledger.core.entries.entry import EntryKind, StartupEntry

SUPERVISOR = "runsv"
"""What runs each service of its own folder; its one argument is the folder. runsv(8)."""
Ran = Mapping[str, Sequence[tuple[ProgramRun, CommandLine]]]
"""Program runs with their commands, by the program."""
_RUN = "/run"
_STARTS = frozenset({"start", ""})
_GOES_THROUGH = {
    "rc": frozenset("12345"),
    "openrc": frozenset({"default"}),
    "run_sysv_scripts": frozenset({"/etc/rc2.d"}),
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
    return tuple(_timed(one, scripts.get(one.entry_id), by_program) for one in activities)


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
    # What became another program goes on without its script.
    scripts = [run for run in ran if unwrapped(run.command).program == command.program]
    ends = [begin, *(run.ended for run in scripts if run.ended is not None)]
    goes_on = any(run.ended is None for run in scripts)
    return replace(activity, starting_from=begin, up_at=None if goes_on else max(ends))


def _starts(told: CommandLine) -> bool:
    return (told.arguments or ("",))[0] in _STARTS


def with_system_up(marks: Marks, runs: Sequence[ProgramRun]) -> Marks:
    """The marks with when the last script of the start had been run, where nobody said so and the
    program that runs them was seen to end.
    """
    if Mark.SYSTEM_UP in marks:
        return marks
    ends = [
        run.ended for run in runs if run.ended is not None and _goes_through(unwrapped(run.command))
    ]
    return {**marks, Mark.SYSTEM_UP: max(ends)} if ends else marks


def _goes_through(command: CommandLine) -> bool:
    levels = _GOES_THROUGH.get(command.name, frozenset())
    return bool(levels & set(command.arguments))
