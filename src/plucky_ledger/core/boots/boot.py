"""A boot: one recorded start of the PC, as the book needs it."""

from dataclasses import dataclass, field
from datetime import datetime
from enum import StrEnum

from plucky_ledger.core.boots.marks import Marks
from plucky_ledger.core.boots.work import Worked
from plucky_ledger.core.values.measures import Measure, Readings
from plucky_ledger.core.values.reasons import Reason


class How(StrEnum):
    """How a boot was measured."""

    RECORDED = "recorded"
    AT_REST = "at_rest"
    """A reading at rest: recorded long after the start, so there are no boot times."""
    STOPWATCH = "stopwatch"
    TYPED = "typed"
    JOURNAL = "journal"


class StartKind(StrEnum):
    """What kind of start it was."""

    COLD = "cold"
    RESTART = "restart"
    RESUME = "resume"
    UNKNOWN = "unknown"


class PowerSource(StrEnum):
    """What the PC ran on."""

    MAINS = "mains"
    BATTERY = "battery"
    UNKNOWN = "unknown"


@dataclass(frozen=True, kw_only=True)
class Context:
    """The circumstances of a boot, as far as they are known; an empty text is not known."""

    start_kind: StartKind = StartKind.UNKNOWN
    kernel: str = ""
    power_source: PowerSource = PowerSource.UNKNOWN
    updates_running: bool = False
    disk_checked: bool = False
    user: str = ""
    """Who signed in."""
    suspended_seconds: float = 0.0
    """How long the PC slept while it was recorded."""
    hardware: str = ""
    """What the PC has, in one line, to notice that it is another."""
    controls: dict[str, float] = field(default_factory=dict)
    """Figures no startup entry can touch: see core.statistics.controls."""
    noticed: tuple[Reason, ...] = ()
    """What was found to have changed on the PC without being posted."""
    notes: tuple[Reason, ...] = ()
    """What the recorder had to say, such as what it had no permission to read."""
    worked: tuple[Worked, ...] = ()
    """Who worked until it had settled, and later; empty where no program was watched."""
    looked_seconds: float = 0.0
    """For how long after it had settled somebody looked, slowly; 0 where nobody did."""
    held_later: dict[Measure, float] = field(default_factory=dict)
    """What was held at the end of that look, in units of the measure; empty where it was short."""


METHOD = 2
"""Number of the method by which figures are worked out of marks and samples. It is raised with
every change of a rule or a level that changes figures: those in ledgers are worked out anew then.
"""


@dataclass(frozen=True, kw_only=True)
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
    method: int = METHOD
    """By which its readings were worked out; 0 where unknown."""
    uuid: str = ""
    """The same in every ledger; empty until it is in one."""

    @property
    def counts(self) -> bool:
        """Whether it is in the account."""
        return not self.set_aside

    @property
    def is_start(self) -> bool:
        """Whether it tells of a start of the PC; a reading at rest does not."""
        return self.how is not How.AT_REST


def counted(boots: tuple[Boot, ...]) -> tuple[Boot, ...]:
    """The boots that are in the account."""
    return tuple(boot for boot in boots if boot.counts)


def starts_in(boots: tuple[Boot, ...]) -> tuple[Boot, ...]:
    """The boots in the account that tell of a start, readings at rest left out."""
    return tuple(boot for boot in boots if boot.counts and boot.is_start)
