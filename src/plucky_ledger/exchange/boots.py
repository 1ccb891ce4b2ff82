"""From a recording to a boot and its timeline."""

import io
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime, timedelta
from typing import TypeVar

import msgspec
import numpy as np

from plucky_ledger.core.boots.analysis import Analysis
from plucky_ledger.core.boots.boot import Boot, Context, How, PowerSource, StartKind
from plucky_ledger.core.boots.context import disk_checked, updates_running
from plucky_ledger.core.boots.marks import Marks
from plucky_ledger.core.boots.programs import ProgramRun
from plucky_ledger.core.boots.readings import begun_late
from plucky_ledger.core.boots.samples import Floats, Samples
from plucky_ledger.core.boots.stages import Stage, StageKind
from plucky_ledger.core.boots.timeline import Activity, Timeline
from plucky_ledger.core.entries.entry import EntryKind, EntryOwner, StartupEntry
from plucky_ledger.core.pc.facts import Drive, DriveKind, Facts
from plucky_ledger.core.pc.history import PowerLog
from plucky_ledger.core.values.instants import FIRST_YEAR, LAST_YEAR
from plucky_ledger.core.values.reasons import Reason, ReasonCode, quoted
from plucky_ledger.core.values.trouble import TroubleCode
from plucky_ledger.exchange.condition import condition_from
from plucky_ledger.exchange.counters import counted_before, since_the_start
from plucky_ledger.exchange.history import history_from, power_log_from
from plucky_ledger.exchange.names import (
    ENTRY_KINDS,
    FROM_JOURNAL,
    MARKS,
    OWNERS,
    POWER_SOURCES,
    STAGES,
    START_KINDS,
    reason_from,
    result_from,
)
from plucky_ledger.recording.lines import (
    ActivityLine,
    EntryLine,
    Header,
    NoteLine,
    PcFacts,
    ProgramLine,
    ProgramRow,
    SampleLine,
    StageLine,
)
from plucky_ledger.recording.reader import Recording, RecordingFault, read_recording

L = TypeVar("L", bound=msgspec.Struct)
_ACCOUNTED = (
    "cpu_seconds",
    "memory_bytes",
    "bytes_read",
    "cpu_pressure_seconds",
    "io_pressure_seconds",
    "restarts",
)


@dataclass(frozen=True, kw_only=True, eq=False)
class RecordedBoot:
    """What one recording holds."""

    boot_id: str
    """The kernel's name for the boot; empty where the PC gave none."""
    boot: Boot
    """Not yet numbered."""
    timeline: Timeline
    facts: Facts
    packages: Mapping[str, str] = field(default_factory=dict)
    """Version of every installed package, by its name; empty where nobody told."""
    damaged_line: int | None = None
    """Line from which on the recording is damaged; what came before is here."""


def boot_from_bytes(data: bytes) -> RecordedBoot:
    """Read a boot from the bytes of a recording.

    Raises:
        RecordingFault: see ``read_recording``.
    """
    return boot_from(read_recording(io.BytesIO(data)))


def boot_from(recording: Recording) -> RecordedBoot:
    """Turn the lines of a recording into a boot with its readings, and a timeline."""
    header = recording.header
    counted = samples_from(recording.samples, header.facts)
    readings = recording.program_readings
    older = counted_before(counted, readings) if counted is not None else 0.0
    samples = since_the_start(counted, readings) if counted is not None else None
    marks = {MARKS[line.name]: line.seconds for line in recording.marks if line.name in MARKS}
    timeline = _timeline(recording, samples)
    boot = Boot(
        number=0,
        started_at=_started_at(header.started_at, recording.notes),
        how=_how(header, marks, samples),
        marks=marks,
        context=_context(recording, timeline, older),
        cut_short=recording.cut_short,
    )
    boot = replace(boot, readings=Analysis(boot, timeline).readings)
    damaged_line = int(str(recording.damage.facts["line"])) if recording.damage else None
    return RecordedBoot(
        boot_id=header.boot_id,
        boot=boot,
        timeline=timeline,
        facts=facts_from(header.facts),
        packages=recording.packages,
        damaged_line=damaged_line,
    )


def _how(header: Header, marks: Marks, samples: Samples | None) -> How:
    if header.how == FROM_JOURNAL:
        return How.JOURNAL
    return How.AT_REST if not header.armed and begun_late(marks, samples) else How.RECORDED


def _started_at(text: str, notes: Sequence[NoteLine]) -> datetime:
    """When the PC was started; by how much its clock was set meanwhile, it was wrong at first."""
    try:
        instant = datetime.fromisoformat(text)
        instant = (instant if instant.tzinfo else instant.replace(tzinfo=UTC)).astimezone(UTC)
        instant += timedelta(seconds=sum(map(_clock_set_by, notes)))
    except (ValueError, OverflowError) as error:
        raise RecordingFault(TroubleCode.BAD_DATE, text=text[:40]) from error
    if not FIRST_YEAR <= instant.year <= LAST_YEAR:
        raise RecordingFault(TroubleCode.BAD_DATE, text=text[:40])
    return instant


def _clock_set_by(note: NoteLine) -> float:
    """Seconds by which the wall clock was set, if that is what a note says."""
    if note.said is None or note.said.code != ReasonCode.CLOCK_SET.value:
        return 0.0
    seconds = note.said.facts.get("seconds")
    return seconds if isinstance(seconds, int | float) else 0.0


def _context(recording: Recording, timeline: Timeline, older_seconds: float) -> Context:
    line, facts = recording.context, recording.header.facts
    notes = [_note(note) for note in recording.notes]
    if older_seconds:
        notes.append(Reason.of(ReasonCode.COUNTERS_OLDER, seconds=older_seconds))
    return Context(
        start_kind=START_KINDS.get(line.start_kind, StartKind.UNKNOWN),
        kernel=line.kernel,
        power_source=POWER_SOURCES.get(line.power_source, PowerSource.UNKNOWN),
        updates_running=line.updates_running or updates_running(timeline.runs, timeline.activities),
        disk_checked=line.disk_checked or disk_checked(timeline.activities),
        user=line.user,
        suspended_seconds=line.suspended_seconds,
        hardware=f"{facts.cpu_model}, {facts.cores} cores, {facts.memory_bytes >> 20} MB",
        controls=_controls(recording),
        notes=tuple(notes),
    )


def _note(line: NoteLine) -> Reason:
    return reason_from(line.said) if line.said else quoted(line.text)


def facts_from(facts: PcFacts) -> Facts:
    """The PC's facts as the core knows them."""
    kinds = {True: DriveKind.ROTATING, False: DriveKind.SOLID_STATE, None: DriveKind.UNKNOWN}
    return Facts(
        os_release=facts.os_release,
        kernel=facts.kernel,
        cpu_model=facts.cpu_model,
        cores=facts.cores,
        memory_bytes=facts.memory_bytes or None,
        drives=tuple(
            Drive(drive.name, kinds[drive.rotating], drive.size_bytes, drive.free_bytes)
            for drive in facts.drives
        ),
        uptime_seconds=facts.uptime_seconds,
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


def _timeline(recording: Recording, samples: Samples | None) -> Timeline:
    return Timeline(
        stages=tuple(
            _stage(line) for line in _newest(recording.stages, "name") if line.end >= line.start
        ),
        samples=samples,
        runs=_runs(recording),
        entries=tuple(_entry(line) for line in _newest(recording.entries, "entry")),
        activities=tuple(
            Activity(
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
            for line in _accounted(recording.activities)
        ),
        condition=condition_from(recording.condition) if recording.condition else None,
        history=history_from(recording.history) if recording.history else (),
        power_log=power_log_from(recording.history) if recording.history else PowerLog(),
    )


def _newest(lines: Sequence[L], name: str) -> list[L]:
    """Of lines about the same thing the last: what is asked again is known better."""
    return list({getattr(line, name): line for line in lines}.values())


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


def _entry(line: EntryLine) -> StartupEntry:
    old = quoted(line.off_because) if line.off_because else None
    old_schedule = (quoted(line.schedule),) if line.schedule else ()
    return StartupEntry(
        entry_id=line.entry,
        name=line.name,
        owner=OWNERS.get(line.owner, EntryOwner.UNKNOWN),
        kind=ENTRY_KINDS.get(line.starts, EntryKind.UNKNOWN),
        origin=line.origin,
        command=line.command,
        part_of_system=line.part_of_system,
        guarded=line.guarded,
        left_behind=line.left_behind,
        group=line.group,
        off_because=reason_from(line.off) if line.off else old,
        executable=line.executable,
        package=line.package,
        description=line.description,
        file_state=line.file_state,
        schedule=tuple(reason_from(timer) for timer in line.timers) or old_schedule,
    )


def _controls(recording: Recording) -> dict[str, float]:
    """The kernel's own stage, and what the recorder timed at rest."""
    controls = {line.name: line.value for line in recording.controls if line.value > 0}
    for stage in recording.stages:
        if stage.name == "kernel" and stage.end > stage.start:
            controls["kernel stage"] = stage.end - stage.start
    return controls


def _stage(line: StageLine) -> Stage:
    kind = STAGES.get(line.name, StageKind.UNKNOWN)
    return Stage(kind, line.start, line.end, line.name)


def _runs(recording: Recording) -> tuple[ProgramRun, ...]:
    readings: dict[int, list[tuple[float, ProgramRow]]] = {}
    ended: dict[int, float] = {}
    for line in recording.program_readings:
        for row in line.rows:
            readings.setdefault(row.run, []).append((line.seconds, row))
        for run in line.ended:
            ended[run] = line.seconds
    return tuple(
        _run(line, readings.get(line.run, []), ended.get(line.run)) for line in recording.programs
    )


def _run(
    line: ProgramLine, rows: Sequence[tuple[float, ProgramRow]], ended: float | None
) -> ProgramRun:
    nan = float("nan")
    table = np.array(
        [
            (
                seconds,
                row.cpu_seconds,
                row.memory_bytes,
                nan if row.bytes_read is None else row.bytes_read,
                row.children_cpu_seconds,
                nan if row.shared_bytes is None else row.shared_bytes,
                nan if row.proportional_bytes is None else row.proportional_bytes,
                nan if row.bytes_written is None else row.bytes_written,
                nan if row.faulted_bytes is None else row.faulted_bytes,
                nan if row.queued_seconds is None else row.queued_seconds,
            )
            for seconds, row in rows
        ],
        dtype=np.float64,
    ).reshape(len(rows), 10)
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
        seconds=table[:, 0],
        cpu_seconds=table[:, 1],
        memory_bytes=table[:, 2],
        bytes_read=table[:, 3],
        children_cpu_seconds=table[:, 4],
        shared_bytes=table[:, 5],
        proportional_bytes=table[:, 6],
        bytes_written=table[:, 7],
        faulted_bytes=table[:, 8],
        queued_seconds=table[:, 9],
        ended=ended,
        own=line.own,
    )
