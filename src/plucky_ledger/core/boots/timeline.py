"""Timeline of one boot: activities, program runs and samples, as lanes and replay need them."""

from dataclasses import dataclass, field

from plucky_ledger.core.boots.programs import ProgramRun
from plucky_ledger.core.boots.samples import Samples
from plucky_ledger.core.boots.stages import Stage
from plucky_ledger.core.entries.entry import StartupEntry
from plucky_ledger.core.entries.sources import SourceLooked
from plucky_ledger.core.pc.condition import Condition
from plucky_ledger.core.pc.history import PackageEvent, PowerLog
from plucky_ledger.core.values.reasons import Reason


@dataclass(frozen=True, kw_only=True)
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
    result: Reason | None = None
    """What went wrong; None when it started."""
    after: tuple[str, ...] = ()
    """Entry ids it is ordered after."""
    cpu_seconds: float | None = None
    """What the manager's own accounting says of all its processes, ended ones included."""
    memory_bytes: float | None = None
    bytes_read: float | None = None
    cpu_pressure_seconds: float | None = None
    """How long some of its work was held up for want of a core, by the kernel's own account."""
    io_pressure_seconds: float | None = None
    """The same for want of the drive, the time it took to move its data included."""
    restarts: int | None = None
    """How often its manager started it anew by itself."""


@dataclass(frozen=True, kw_only=True, eq=False)
class Timeline:
    """Everything of a boot that happened over time. Empty for boots without a recording."""

    stages: tuple[Stage, ...] = ()
    samples: Samples | None = None
    runs: tuple[ProgramRun, ...] = ()
    entries: tuple[StartupEntry, ...] = ()
    sources: tuple[SourceLooked, ...] = ()
    """Where was looked for them besides the service managers; empty where nobody did."""
    activities: tuple[Activity, ...] = ()
    condition: Condition | None = None
    """The state the PC was in at the end; None where nobody told."""
    history: tuple[PackageEvent, ...] = ()
    """What had been installed, updated and removed over the months before."""
    later: "Timeline | None" = None
    """The slow look at what came after: its first sample is the last of this one. None where nobody
    looked."""
    power_log: PowerLog = field(default_factory=PowerLog)
    """When it had been started, and woken, over the months before."""
