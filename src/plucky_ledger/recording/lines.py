"""The kinds of line a recording has. Only the standard library and msgspec are needed here.

Seconds are since the kernel started unless a field says otherwise; bytes and CPU seconds are
cumulative unless it says otherwise; None means not known.
"""

from typing import Annotated

from msgspec import Meta, Struct

from plucky_ledger.core.values.reasons import Fact, ReasonCode
from plucky_ledger.recording.condition import ConditionLine
from plucky_ledger.recording.history import HistoryLine

FORMAT = "plucky-ledger-recording"
VERSION = 1

Text = Annotated[str, Meta(max_length=4096)]
Seconds = Annotated[float, Meta(ge=-86_400, le=31_536_000)]
Count = Annotated[int, Meta(ge=0, le=2**53)]
Amount = Annotated[float, Meta(ge=0, le=2**63)]


class Said(Struct, frozen=True):
    """Something the recorder has to say: a code that later versions may add to, with facts."""

    code: Text
    facts: Annotated[dict[Text, Text | int | float], Meta(max_length=32)] = {}


def said(code: ReasonCode, **facts: Fact) -> Said:
    """The same, made fit for a recording."""
    return Said(
        code.value,
        {name: bounded(fact) if isinstance(fact, str) else fact for name, fact in facts.items()},
    )


class DriveFacts(Struct, frozen=True):
    """One drive of the PC."""

    name: Text
    rotating: bool | None
    size_bytes: Count
    free_bytes: Count | None = None
    virtual: bool = False
    """A host of virtual machines makes it; what it calls itself says nothing."""


class PcFacts(Struct, frozen=True):
    """What the recorded PC has."""

    os_release: Text = ""
    kernel: Text = ""
    cpu_model: Text = ""
    cores: Annotated[int, Meta(ge=1, le=4096)] = 1
    memory_bytes: Count = 0
    drives: Annotated[tuple[DriveFacts, ...], Meta(max_length=256)] = ()
    uptime_seconds: Amount | None = None


class Header(Struct, frozen=True, tag="header", tag_field="kind"):
    """First line: what this file is and which boot it holds."""

    format: Text
    version: int
    recorder: Text
    boot_id: Text
    started_at: Text
    """Wall clock when the kernel started, ISO 8601 in UTC."""
    zone: Text
    """Time zone of the PC, such as "CET"."""
    facts: PcFacts
    how: Text = "recorded"
    """"recorded", "read from the log" for a past boot, or "from a table" that something else has
    written.
    """
    armed: bool = False
    """The recorder was started by the boot itself, however late it came to its first sample."""


class ContextLine(Struct, frozen=True, tag="context", tag_field="kind"):
    """The circumstances of the boot."""

    start_kind: Text = ""
    kernel: Text = ""
    power_source: Text = ""
    updates_running: bool = False
    disk_checked: bool = False
    user: Text = ""
    """Who signed in."""
    suspended_seconds: Amount = 0.0
    """How long the PC slept while it was recorded."""


class ControlLine(Struct, frozen=True, tag="control", tag_field="kind"):
    """Something no startup entry can touch: it tells how fast the machine itself was."""

    name: Text
    """Such as "fixed work" (CPU seconds of the same small piece of work, timed at rest)."""
    value: Amount


class NoteLine(Struct, frozen=True, tag="note", tag_field="kind"):
    """Something the recorder has to say to the technician, such as what it may not read."""

    text: Text = ""
    """As older recorders said it; empty where ``said`` says it."""
    said: Said | None = None


class MarkLine(Struct, frozen=True, tag="mark", tag_field="kind"):
    """A named instant."""

    name: Text
    seconds: Seconds
    source: Text = ""


class StageLine(Struct, frozen=True, tag="stage", tag_field="kind"):
    """A stretch of the boot the system itself tells of."""

    name: Text
    start: Seconds
    end: Seconds


class EntryLine(Struct, frozen=True, tag="entry", tag_field="kind"):
    """A startup entry as it was at this boot."""

    entry: Text
    name: Text
    owner: Text
    """"system" or "user"."""
    starts: Text
    """What starts it, such as "sign-in program"."""
    origin: Text = ""
    command: Text = ""
    part_of_system: bool = False
    guarded: bool = False
    left_behind: bool = False
    group: Text = ""
    """Control group its processes run in."""
    off_because: Text = ""
    """Why it does not start, as older recorders said it."""
    executable: Text = ""
    """Full path of the program it really runs; empty where not found."""
    package: Text = ""
    """Package that owns the program: name and version."""
    description: Text = ""
    """What the package, or the entry itself, says of it."""
    schedule: Text = ""
    """When its timer starts it, as older recorders said it."""
    off: Said | None = None
    """Why it does not start, as it is set; None when it does."""
    timers: Annotated[tuple[Said, ...], Meta(max_length=64)] = ()
    """When its timers start it."""
    file_state: Text = ""
    """How its service manager says it is set, such as "enabled"; empty where none does."""
    beside: Annotated[tuple[Text, ...], Meta(max_length=64)] = ()
    """Commands that its unit runs before and after the main one."""
    drop_ins: Annotated[tuple[Text, ...], Meta(max_length=64)] = ()
    """Files that others added to its unit."""


class SourceLine(Struct, frozen=True, tag="source", tag_field="kind"):
    """What came of looking at one kind of file that starts programs."""

    source: Text
    """Such as "tables": those of timed jobs."""
    files: Count = 0
    """Files there that were read."""
    entries: Count = 0
    refused: Annotated[tuple[Text, ...], Meta(max_length=64)] = ()
    """Files and folders that are there and that the recorder may not read."""


class PackagesLine(Struct, frozen=True, tag="packages", tag_field="kind"):
    """What the PC's package database says is installed."""

    versions: Annotated[dict[Text, Text], Meta(max_length=50_000)] = {}
    """By name of the package."""


class ActivityLine(Struct, frozen=True, tag="activity", tag_field="kind"):
    """What one startup entry did."""

    entry: Text
    waiting_from: Seconds | None = None
    starting_from: Seconds | None = None
    up_at: Seconds | None = None
    ended_at: Seconds | None = None
    result: Text = ""
    after: Annotated[tuple[Text, ...], Meta(max_length=4096)] = ()
    """Entries it is ordered after."""
    cpu_seconds: Amount | None = None
    """What the manager's own accounting says of all its processes, ended ones included."""
    memory_bytes: Count | None = None
    bytes_read: Count | None = None
    cpu_pressure_seconds: Amount | None = None
    """How long some of its work was held up for want of a core, by the kernel's own account."""
    io_pressure_seconds: Amount | None = None
    """The same for want of the drive, the time it took to move its data included."""
    restarts: Count | None = None
    """How often its manager started it anew by itself."""


class ProgramLine(Struct, frozen=True, tag="program", tag_field="kind"):
    """A program run seen for the first time."""

    run: Count
    pid: Count
    start_tick: Count
    parent: Count
    name: Text
    command: Text
    user: int
    group: Text
    started: Seconds
    own: bool = False


class ProgramRow(Struct, frozen=True, array_like=True):
    """What one program run has used so far."""

    run: Count
    cpu_seconds: Amount
    memory_bytes: Count
    """Resident at this instant."""
    bytes_read: Count | None = None
    """Cumulative; the kernel adds what its ended children had read."""
    bytes_written: Count | None = None
    children_cpu_seconds: Amount = 0.0
    """CPU time of its children that have ended, and of theirs: short-lived ones show only here."""
    shared_bytes: Count | None = None
    """Of the resident memory, what other programs may share: files and shared memory."""
    proportional_bytes: Count | None = None
    """Resident memory with each shared page counted in parts, as last asked: it is dear to ask."""
    faulted_bytes: Count | None = None
    """Memory it had page faults for, where the proportional share may not be read: of what it
    shares with the run it was forked from, no more can be its own."""
    queued_seconds: Amount | None = None
    """Cumulative: how long its work waited for a core, all threads together, where the kernel
    tells; several threads are taken to have waited like the first."""


class ProgramsLine(Struct, frozen=True, tag="programs", tag_field="kind"):
    """Readings of the program runs that changed since the line before."""

    seconds: Seconds
    rows: tuple[ProgramRow, ...] = ()
    ended: tuple[Count, ...] = ()


class SampleLine(Struct, frozen=True, tag="sample", tag_field="kind"):
    """The system-wide counters at one instant."""

    seconds: Seconds
    cpu_seconds: Amount
    """CPU time used by everything, all cores."""
    disk_read_bytes: Count
    disk_written_bytes: Count
    disk_busy_seconds: Amount
    memory_held_bytes: Count
    processes: Count
    own_cpu_seconds: Amount = 0.0
    own_memory_bytes: Count = 0
    runnable: Count | None = None
    """Threads that computed or waited for a core at this instant, the recorder's left out."""
    blocked: Count | None = None
    """Threads that waited for a drive at this instant."""
    disk_requests: Count | None = None
    """Requests that the drives have answered."""
    disk_answer_seconds: Amount | None = None
    """How long those took together, from being asked to being answered."""
    cpu_pressure_seconds: Amount | None = None
    """Time in which some program waited for a core, by the kernel's account."""
    io_pressure_seconds: Amount | None = None
    """The same for a drive."""
    memory_pressure_seconds: Amount | None = None
    """The same for memory."""


class EndLine(Struct, frozen=True, tag="end", tag_field="kind"):
    """Last line: what a whole file must have held before it."""

    lines: Count
    samples: Count
    reason: Text = ""
    """Why recording ended: a code."""
    goes_on: bool = False
    """A slow look at what comes later follows, with an end record of its own."""


Line = (
    Header
    | ContextLine
    | ControlLine
    | NoteLine
    | MarkLine
    | StageLine
    | EntryLine
    | SourceLine
    | PackagesLine
    | ConditionLine
    | HistoryLine
    | ActivityLine
    | ProgramLine
    | ProgramsLine
    | SampleLine
    | EndLine
)

LINE_TYPES: tuple[type[Struct], ...] = (
    Header,
    ContextLine,
    ControlLine,
    NoteLine,
    MarkLine,
    StageLine,
    EntryLine,
    SourceLine,
    PackagesLine,
    ConditionLine,
    HistoryLine,
    ActivityLine,
    ProgramLine,
    ProgramsLine,
    SampleLine,
    EndLine,
)

KINDS = frozenset(str(kind.__struct_config__.tag) for kind in LINE_TYPES)


def bounded(text: str, limit: int = 1024) -> str:
    """Text from a PC made fit for a recording: bounded, with no lone surrogates."""
    return text[:limit].encode("utf-8", "replace").decode("utf-8")
