"""From a recording to a boot with its figures, and what else one recording holds."""

import io
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta

from plucky_ledger.core.boots.analysis import Analysis
from plucky_ledger.core.boots.boot import Boot, Context, How, PowerSource, StartKind
from plucky_ledger.core.boots.context import disk_checked, updates_running
from plucky_ledger.core.boots.init_scripts import with_marks_of_scripts
from plucky_ledger.core.boots.marks import Marks
from plucky_ledger.core.boots.readings import begun_late
from plucky_ledger.core.boots.samples import Samples
from plucky_ledger.core.boots.timeline import Timeline
from plucky_ledger.core.boots.worked import with_figures
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.values.instants import FIRST_YEAR, LAST_YEAR
from plucky_ledger.core.values.reasons import Reason, ReasonCode, quoted
from plucky_ledger.core.values.trouble import TroubleCode
from plucky_ledger.exchange.counters import counted_before
from plucky_ledger.exchange.facts import facts_from
from plucky_ledger.exchange.names import (
    FROM_JOURNAL,
    FROM_TABLE,
    MARKS,
    POWER_SOURCES,
    START_KINDS,
    reason_from,
)
from plucky_ledger.exchange.timelines import samples_from, timeline_from
from plucky_ledger.recording.lines import Header, NoteLine
from plucky_ledger.recording.reader import Recording, RecordingFault, read_recording


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
    goes_on: bool = False
    """A slow look follows that was not ended."""
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
    marks = {MARKS[line.name]: line.seconds for line in recording.marks if line.name in MARKS}
    timeline = timeline_from(recording, counted)
    marks = dict(with_marks_of_scripts(marks, timeline.entries, timeline.runs))
    boot = Boot(
        number=0,
        started_at=_started_at(header.started_at, recording.notes),
        how=_how(header, marks, timeline.samples),
        marks=marks,
        context=_context(recording, timeline, older),
        cut_short=recording.cut_short,
    )
    boot = with_figures(Analysis(boot, timeline))
    damaged_line = int(str(recording.damage.facts["line"])) if recording.damage else None
    return RecordedBoot(
        boot_id=header.boot_id,
        boot=boot,
        timeline=timeline,
        facts=facts_from(header.facts),
        packages=recording.packages,
        goes_on=recording.goes_on,
        damaged_line=damaged_line,
    )


def _how(header: Header, marks: Marks, samples: Samples | None) -> How:
    if header.how == FROM_JOURNAL:
        return How.JOURNAL
    if header.how == FROM_TABLE:
        return How.TYPED
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


def _controls(recording: Recording) -> dict[str, float]:
    """The kernel's own stage, and what the recorder timed at rest."""
    controls = {line.name: line.value for line in recording.controls if line.value > 0}
    for stage in recording.stages:
        if stage.name == "kernel" and stage.end > stage.start:
            controls["kernel stage"] = stage.end - stage.start
    return controls
