"""From the lines of a recording to a timeline: samples, runs of programs, entries, activities."""

import io
from collections.abc import Sequence
from operator import attrgetter

import msgspec
import numpy as np

from plucky_ledger.core.boots.ends import with_ends
from plucky_ledger.core.boots.init_scripts import stages_of_scripts, with_script_times
from plucky_ledger.core.boots.programs import ProgramRun
from plucky_ledger.core.boots.samples import Floats, Samples
from plucky_ledger.core.boots.stages import Stage, StageKind
from plucky_ledger.core.boots.timeline import Activity, Timeline
from plucky_ledger.core.entries.entry import StartupEntry
from plucky_ledger.core.pc.history import PowerLog
from plucky_ledger.exchange.condition import condition_from
from plucky_ledger.exchange.counters import since_the_start
from plucky_ledger.exchange.entries import entries_from, newest, sources_from
from plucky_ledger.exchange.history import history_from, power_log_from
from plucky_ledger.exchange.names import STAGES, result_from
from plucky_ledger.recording.lines import (
    ActivityLine,
    PcFacts,
    ProgramLine,
    ProgramRow,
    ProgramsLine,
    SampleLine,
    StageLine,
)
from plucky_ledger.recording.reader import Recording, read_recording

_ACCOUNTED = (
    "cpu_seconds",
    "memory_bytes",
    "bytes_read",
    "cpu_pressure_seconds",
    "io_pressure_seconds",
    "restarts",
)
_COUNTERS = (
    "cpu_seconds",
    "memory_bytes",
    "bytes_read",
    "children_cpu_seconds",
    "shared_bytes",
    "proportional_bytes",
    "bytes_written",
    "faulted_bytes",
    "queued_seconds",
)
"""What is read of a program again and again."""
_counters = attrgetter(*_COUNTERS)


def timeline_from_bytes(data: bytes) -> Timeline:
    """The timeline of a recording, without the figures of its boot. Raises RecordingFault."""
    recording = read_recording(io.BytesIO(data))
    counted = samples_from(recording.samples, recording.header.facts)
    return timeline_from(recording, counted)


def timeline_from(recording: Recording, counted: Samples | None) -> Timeline:
    """The timeline; ``counted`` are the samples as the kernel counts, since it started."""
    samples = since_the_start(counted, recording.program_readings) if counted is not None else None
    runs, entries = _runs(recording.programs, recording.program_readings), entries_from(recording)
    return Timeline(
        stages=stages_of_scripts(
            tuple(
                _stage(line) for line in newest(recording.stages, "name") if line.end >= line.start
            ),
            entries,
            runs,
        ),
        samples=samples,
        runs=runs,
        entries=entries,
        sources=sources_from(recording),
        activities=with_script_times(
            with_ends(map(_activity, _accounted(recording.activities)), entries, runs),
            entries,
            runs,
        ),
        later=_looked_on(recording, entries),
        condition=condition_from(recording.condition) if recording.condition else None,
        history=history_from(recording.history) if recording.history else (),
        power_log=power_log_from(recording.history) if recording.history else PowerLog(),
    )


def _looked_on(recording: Recording, entries: tuple[StartupEntry, ...]) -> Timeline | None:
    """The slow look: of what ran at its beginning the last that was read of it, and what came."""
    later = recording.later
    if not later.samples or not recording.samples:
        return None
    last: dict[int, ProgramRow] = {}
    for line in recording.program_readings:
        last.update((row.run, row) for row in line.rows)
        for run in line.ended:
            last.pop(run, None)
    begin = recording.samples[-1]
    there = [line for line in recording.programs if line.run in last]
    first = ProgramsLine(begin.seconds, tuple(last.values()))
    return Timeline(
        samples=samples_from([begin, *later.samples], recording.header.facts),
        runs=_runs([*there, *later.programs], [first, *later.program_readings]),
        entries=entries,
    )


def _activity(line: ActivityLine) -> Activity:
    return Activity(
        entry_id=line.entry,
        waiting_from=line.waiting_from,
        starting_from=line.starting_from,
        up_at=line.up_at,
        ended_at=line.ended_at,
        result=result_from(line.result),
        after=line.after,
        cpu_seconds=line.cpu_seconds,
        memory_bytes=line.memory_bytes,
        bytes_read=line.bytes_read,
        cpu_pressure_seconds=line.cpu_pressure_seconds,
        io_pressure_seconds=line.io_pressure_seconds,
        restarts=line.restarts,
    )


def samples_from(lines: Sequence[SampleLine], facts: PcFacts) -> Samples | None:
    """Columns from sample lines; None when there are none."""
    if not lines:
        return None
    return Samples(
        seconds=_column(lines, "seconds"),
        cpu_seconds=_column(lines, "cpu_seconds"),
        disk_read_bytes=_column(lines, "disk_read_bytes"),
        disk_written_bytes=_column(lines, "disk_written_bytes"),
        disk_busy_seconds=_column(lines, "disk_busy_seconds"),
        memory_held_bytes=_column(lines, "memory_held_bytes"),
        processes=_column(lines, "processes"),
        own_cpu_seconds=_column(lines, "own_cpu_seconds"),
        own_memory_bytes=_column(lines, "own_memory_bytes"),
        runnable=_counted(lines, "runnable"),
        blocked=_counted(lines, "blocked"),
        disk_requests=_counted(lines, "disk_requests"),
        disk_answer_seconds=_counted(lines, "disk_answer_seconds"),
        cpu_pressure_seconds=_counted(lines, "cpu_pressure_seconds"),
        io_pressure_seconds=_counted(lines, "io_pressure_seconds"),
        memory_pressure_seconds=_counted(lines, "memory_pressure_seconds"),
        cores=facts.cores,
        memory_total_bytes=float(facts.memory_bytes),
    )


def _column(lines: Sequence[SampleLine], name: str) -> Floats:
    return np.array([getattr(line, name) for line in lines], dtype=np.float64)


def _counted(lines: Sequence[SampleLine], name: str) -> Floats | None:
    """A column the recorder may not have had."""
    return None if getattr(lines[0], name) is None else np.nan_to_num(_column(lines, name))


def _accounted(lines: Sequence[ActivityLine]) -> list[ActivityLine]:
    """The last of each entry; what the manager had accounted before it was stopped stays known."""
    by_entry: dict[str, ActivityLine] = {}
    for line in lines:
        before = by_entry.get(line.entry)
        kept = {
            name: getattr(before, name)
            for name in _ACCOUNTED
            if before is not None and getattr(line, name) is None
        }
        by_entry[line.entry] = msgspec.structs.replace(line, **kept)
    return list(by_entry.values())


def _stage(line: StageLine) -> Stage:
    kind = STAGES.get(line.name, StageKind.UNKNOWN)
    return Stage(kind, line.start, line.end, line.name)


def _runs(programs: Sequence[ProgramLine], lines: Sequence[ProgramsLine]) -> tuple[ProgramRun, ...]:
    readings: dict[int, list[tuple[float, ProgramRow]]] = {}
    ended: dict[int, float] = {}
    for line in lines:
        for row in line.rows:
            readings.setdefault(row.run, []).append((line.seconds, row))
        for run in line.ended:
            ended[run] = line.seconds
    first = {line.run: line.command for line in reversed(programs)}
    return tuple(
        _run(line, readings.get(line.run, []), ended.get(line.run), first[line.run])
        for line in newest(programs, "run")
    )


def _run(
    line: ProgramLine,
    rows: Sequence[tuple[float, ProgramRow]],
    ended: float | None,
    came_as: str,
) -> ProgramRun:
    counted = np.array([_counters(row) for _, row in rows], dtype=np.float64)  # None becomes NaN
    columns = counted.reshape(len(rows), len(_COUNTERS)).T
    return ProgramRun(
        run=line.run,
        pid=line.pid,
        start_tick=line.start_tick,
        parent_pid=line.parent,
        name=line.name,
        command=line.command,
        user_id=line.user,
        control_group=line.group,
        started=line.started,
        ended=ended,
        own=line.own,
        came_as=came_as,
        seconds=np.array([seconds for seconds, _ in rows], dtype=np.float64),
        **dict(zip(_COUNTERS, columns, strict=True)),
    )
