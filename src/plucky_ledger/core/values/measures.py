"""The measures the book is kept in, their units, and how fine each is kept."""

from dataclasses import dataclass
from enum import StrEnum


class Measure(StrEnum):
    """What the book can be kept in. Less is better in every one of them."""

    READY = "ready"
    SETTLED = "settled"
    SYSTEM_UP = "system_up"
    CPU_WORK = "cpu_work"
    DISK_READ = "disk_read"
    MEMORY_HELD = "memory_held"
    PROCESSES = "processes"
    LOAD_AT_REST = "load_at_rest"

    @property
    def terms(self) -> "Terms":
        return TERMS[self]


class Unit(StrEnum):
    """Unit of a measure."""

    SECONDS = "s"
    CPU_SECONDS = "CPU·s"
    MEGABYTES = "MB"
    PROCESSES = ""
    PERCENT = "%"


@dataclass(frozen=True)
class Terms:
    """How one measure is kept and judged."""

    unit: Unit
    """Unit of every figure of this measure."""
    decimals: int
    """Places after the point the book is kept in; the book adds up in exactly these places."""
    noticeable: float
    """Smallest shift anyone would notice, in the unit."""
    noticeable_share: float
    """Smallest shift anyone would notice, as a share of the balance before."""
    grows_with_size: bool
    """Whether the spread between boots is proportional to the figure (times, work, memory)."""


TERMS: dict[Measure, Terms] = {
    Measure.READY: Terms(Unit.SECONDS, 1, 0.5, 0.02, True),
    Measure.SETTLED: Terms(Unit.SECONDS, 1, 0.5, 0.02, True),
    Measure.SYSTEM_UP: Terms(Unit.SECONDS, 1, 0.5, 0.02, True),
    Measure.CPU_WORK: Terms(Unit.CPU_SECONDS, 1, 1.0, 0.02, True),
    Measure.DISK_READ: Terms(Unit.MEGABYTES, 0, 20.0, 0.02, True),
    Measure.MEMORY_HELD: Terms(Unit.MEGABYTES, 0, 20.0, 0.02, True),
    Measure.PROCESSES: Terms(Unit.PROCESSES, 0, 2.0, 0.02, True),
    Measure.LOAD_AT_REST: Terms(Unit.PERCENT, 1, 1.0, 0.0, False),
}


def noticeable_band(measure: Measure, balance: float) -> float:
    """Smallest shift that counts as saved or lost, for a round at ``balance`` (same unit)."""
    terms = measure.terms
    return max(terms.noticeable, terms.noticeable_share * abs(balance))


LARGEST_FIGURE = 1e9
"""No figure of a boot comes near it, in whichever unit."""


def is_sensible(figure: float) -> bool:
    """Whether a figure can be one of a PC: a number, and not beyond all measure."""
    return -LARGEST_FIGURE < figure < LARGEST_FIGURE


@dataclass(frozen=True)
class Reading:
    """One figure of one boot in one measure."""

    value: float
    """In the measure's unit."""
    censored: bool = False
    """True when the recording ended first: the real figure is ``value`` or more."""

    def __post_init__(self) -> None:
        """Raises ValueError for what no PC can have read."""
        if not is_sensible(self.value):
            raise ValueError(self.value)


Readings = dict[Measure, Reading]
"""The figures a boot has; a measure that is missing here could not be read."""
