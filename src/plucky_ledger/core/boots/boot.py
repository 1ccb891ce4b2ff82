"""A boot: one recorded start of the PC, as the book needs it and as the lanes need it."""

from dataclasses import dataclass, field
from datetime import datetime
from enum import StrEnum

from plucky_ledger.core.boots.marks import Marks
from plucky_ledger.core.boots.programs import ProgramRun
from plucky_ledger.core.boots.samples import Samples
from plucky_ledger.core.measures import Readings


class How(StrEnum):
    """How a boot was measured."""

    RECORDED = "recorded"
    STOPWATCH = "timed by hand"
    TYPED = "typed in"
    LOG = "read from the log"


class StartKind(StrEnum):
    """What kind of start it was."""

    COLD = "cold start"
    RESTART = "restart"
    RESUME = "resume"
    UNKNOWN = "unknown"


@dataclass(frozen=True)
class Context:
    """The circumstances of a boot, as far as they are known; an empty text is not known."""

    start_kind: StartKind = StartKind.UNKNOWN
    kernel: str = ""
    power_source: str = ""
    updates_running: bool = False
    disk_checked: bool = False
    user: str = ""
    """Who signed in."""
    suspended_seconds: float = 0.0
    """How long the PC slept while it was recorded."""
    hardware: str = ""
    """What the PC has, in one line, to notice that it is another."""
    controls: dict[str, float] = field(default_factory=dict)
    """Figures no startup entry can touch: see core.controls."""
    notes: tuple[str, ...] = ()
    """What the recorder had to say, such as what it had no permission to read."""


@dataclass(frozen=True)
class Boot:
    """One boot as the book keeps it."""

    number: int
    """Number in the ledger."""
    started_at: datetime
    """Wall clock at time zero, in UTC."""
    how: How
    marks: Marks = field(default_factory=dict)
    readings: Readings = field(default_factory=dict)
    context: Context = Context()
    set_aside: str = ""
    """Why it is left out of the account; empty when it counts."""
    cut_short: bool = False
    """The recording ended without its end record."""

    @property
    def counts(self) -> bool:
        return not self.set_aside


@dataclass(frozen=True)
class Stage:
    """A stretch of the boot in which one part of the PC was at work. Seconds."""

    name: str
    start: float
    end: float


@dataclass(frozen=True)
class StartupEntry:
    """Anything that starts by itself at boot or sign-in."""

    entry_id: str
    """Stable over boots: the name of its unit or desktop entry."""
    name: str
    owner: str
    """Whose it is: "system" or "user"."""
    kind: str
    """What starts it, such as "sign-in program", "system service"."""
    origin: str = ""
    """The file that makes it start."""
    command: str = ""
    part_of_system: bool = False
    guarded: bool = False
    left_behind: bool = False
    """Its program no longer exists."""
    group: str = ""
    """Control group its processes run in."""
    off_because: str = ""
    """Why it does not start, as it is set; empty when it does."""
    executable: str = ""
    """Full path of the program it really runs, wrappers taken off; empty where not found."""
    package: str = ""
    """Package that owns the program: name and version."""
    description: str = ""
    """What the package, or the entry itself, says of it."""
    schedule: str = ""
    """When its timer starts it, in words; empty without one."""


@dataclass(frozen=True)
class Activity:
    """What one startup entry did in one boot. Seconds; None where it was not seen."""

    entry_id: str
    waiting_from: float | None = None
    """Asked to start, waiting for what it is ordered after."""
    starting_from: float | None = None
    up_at: float | None = None
    """Done starting."""
    ended_at: float | None = None
    """No longer running; None while it ran on."""
    result: str = ""
    """Empty when it started; otherwise what went wrong, in words."""
    after: tuple[str, ...] = ()
    """Entry ids it is ordered after."""
    cpu_seconds: float | None = None
    """What the manager's own accounting says of all its processes, ended ones included."""
    memory_bytes: float | None = None
    bytes_read: float | None = None


@dataclass(frozen=True, eq=False)
class Timeline:
    """Everything of a boot that happened over time. Empty for boots without a recording."""

    stages: tuple[Stage, ...] = ()
    samples: Samples | None = None
    runs: tuple[ProgramRun, ...] = ()
    entries: tuple[StartupEntry, ...] = ()
    activities: tuple[Activity, ...] = ()


def counted(boots: tuple[Boot, ...]) -> tuple[Boot, ...]:
    """The boots that are in the account."""
    return tuple(boot for boot in boots if boot.counts)
