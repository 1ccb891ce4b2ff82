"""Samples of one boot from a table that something else has written: rows as instants."""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from plucky_ledger.core.boots.figures_table import RowFault, name_and_unit, number_in
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.core.values.reasons import Reason, ReasonCode


class Quantity(StrEnum):
    """What a column of such a table may be."""

    AT = "at"
    """Seconds since the start."""
    CPU = "cpu"
    """Share of all cores at work since the row before, 0 to 1."""
    DISK_BUSY = "disk_busy"
    """Share of the time since the row before in which the drive had work, 0 to 1."""
    DISK_READ = "disk_read"
    """Bytes a second read since the row before."""
    MEMORY = "memory"
    """Bytes held."""
    PROCESSES = "processes"


QUANTITY_SCALES: Mapping[Quantity, Mapping[str, float]] = {
    Quantity.AT: {"s": 1.0, "ms": 0.001, "min": 60.0},
    Quantity.CPU: {"%": 0.01},
    Quantity.DISK_BUSY: {"%": 0.01},
    Quantity.DISK_READ: {"MB/s": 1e6, "kB/s": 1e3, "MiB/s": 1_048_576.0, "KiB/s": 1024.0},
    Quantity.MEMORY: {"MB": 1e6, "GB": 1e9, "kB": 1e3, "MiB": 1_048_576.0, "GiB": 1_073_741_824.0},
    Quantity.PROCESSES: {"": 1.0},
}
"""By quantity, the units a column may be in and what one of each is in the quantity's own."""
MOST = {
    Quantity.AT: 86_400.0,
    Quantity.CPU: 1.2,
    Quantity.DISK_BUSY: 1.2,
    Quantity.DISK_READ: 1e11,
    Quantity.MEMORY: 1e14,
    Quantity.PROCESSES: 1e6,
}
"""More than this no PC has. Shares of short stretches are read a little late, and so over one."""
NEEDED: Mapping[Measure, Quantity] = {
    Measure.SETTLED: Quantity.CPU,
    Measure.LOAD_AT_REST: Quantity.CPU,
    Measure.CPU_WORK: Quantity.CPU,
    Measure.DISK_READ: Quantity.DISK_READ,
    Measure.MEMORY_HELD: Quantity.MEMORY,
    Measure.PROCESSES: Quantity.PROCESSES,
}
"""Without which quantity nothing is known of a measure. READY and SYSTEM_UP are marks, which no
table of samples has."""
_AT = frozenset({"time", "seconds", "elapsed", "elapsed time", "since start", "uptime", "t"})
"""How a heading without its unit reads where the column is the time since the start."""
_NAMED: Sequence[tuple[str, Quantity]] = (
    ("cpu", Quantity.CPU),
    ("load", Quantity.CPU),
    ("busy", Quantity.DISK_BUSY),
    ("read", Quantity.DISK_READ),
    ("memory", Quantity.MEMORY),
    ("process", Quantity.PROCESSES),
)


@dataclass(frozen=True)
class SampleColumn:
    """What a column of samples means."""

    quantity: Quantity
    unit: str = ""

    @property
    def scale(self) -> float:
        """What one of its unit is in the quantity's own."""
        return QUANTITY_SCALES[self.quantity][self.unit]


SampleColumns = Mapping[int, SampleColumn]


@dataclass(frozen=True)
class SampleRow:
    """One row as an instant, or why it is none."""

    values: Mapping[Quantity, float]
    """In the quantities' own units; ``AT`` among them."""
    fault: RowFault | None = None
    at: int | None = None
    """Place of the column at fault."""


@dataclass(frozen=True, kw_only=True)
class Counted:
    """The counters of a PC at one instant, as far as a table tells; 0 where it does not."""

    seconds: float
    cpu_seconds: float = 0.0
    disk_busy_seconds: float = 0.0
    disk_read_bytes: float = 0.0
    memory_bytes: float = 0.0
    processes: float = 0.0


def guessed_samples(headings: Sequence[str]) -> dict[int, SampleColumn]:
    """What columns mean, where one of them is the time since the start; else nothing."""
    found: dict[int, SampleColumn] = {}
    for place, heading in enumerate(headings):
        named, unit = name_and_unit(heading)
        words = named.lower()
        quantity = next((one for name, one in _NAMED if name in words), None)
        quantity = Quantity.AT if words in _AT else quantity
        if quantity is None or quantity in {one.quantity for one in found.values()}:
            continue
        units = QUANTITY_SCALES[quantity]
        found[place] = SampleColumn(quantity, unit if unit in units else next(iter(units)))
    kinds = {one.quantity for one in found.values()}
    return found if Quantity.AT in kinds and len(kinds) > 1 else {}


def samples_read(rows: Iterable[Sequence[str]], columns: SampleColumns) -> Iterator[SampleRow]:
    """Rows as instants by what their columns mean, each later than the good one before it."""
    last = -1.0
    for cells in rows:
        row = _sample_read(cells, columns)
        if row.fault is None and row.values[Quantity.AT] <= last:
            row = SampleRow({}, RowFault.NOT_LATER)
        if row.fault is None:
            last = row.values[Quantity.AT]
        yield row


def _sample_read(cells: Sequence[str], columns: SampleColumns) -> SampleRow:
    values: dict[Quantity, float] = {}
    for place, column in columns.items():
        text = cells[place].strip() if place < len(cells) else ""
        if not text:
            return SampleRow({}, RowFault.NO_FIGURE, place)
        value = number_in(text)
        if value is None:
            return SampleRow({}, RowFault.NOT_A_NUMBER, place)
        scaled = value * column.scale
        if not 0 <= scaled <= MOST[column.quantity]:
            return SampleRow({}, RowFault.CANNOT_BE, place)
        values[column.quantity] = scaled
    if Quantity.AT not in values or len(values) == 1:
        return SampleRow({}, RowFault.NO_FIGURE)
    return SampleRow(values)


def counted_from(rows: Sequence[SampleRow], cores: int) -> Iterator[Counted]:
    """Good rows as counters that only grow, from nothing at the start on."""
    now = Counted(seconds=0.0)
    for row in rows:
        values = row.values
        width = values[Quantity.AT] - now.seconds
        now = replace(
            now,
            seconds=values[Quantity.AT],
            cpu_seconds=now.cpu_seconds + min(values.get(Quantity.CPU, 0.0), 1.0) * width * cores,
            disk_busy_seconds=now.disk_busy_seconds
            + min(values.get(Quantity.DISK_BUSY, 0.0), 1.0) * width,
            disk_read_bytes=now.disk_read_bytes + values.get(Quantity.DISK_READ, 0.0) * width,
            memory_bytes=values.get(Quantity.MEMORY, 0.0),
            processes=values.get(Quantity.PROCESSES, 0.0),
        )
        yield now


def untold_by(columns: SampleColumns, cores_known: bool) -> tuple[Measure, ...]:
    """Measures of which such a table tells nothing. CPU work takes the number of cores as well."""
    there = {column.quantity for column in columns.values()}
    return tuple(
        measure
        for measure, quantity in NEEDED.items()
        if quantity not in there or (measure is Measure.CPU_WORK and not cores_known)
    )


def untold_in(notes: Iterable[Reason]) -> frozenset[Measure]:
    """Measures of which a boot's samples tell nothing, by what its recording says of itself."""
    said = {
        word
        for note in notes
        if note.code is ReasonCode.FROM_TABLE
        for word in str(note.facts.get("untold", "")).split()
    }
    return frozenset(measure for measure in Measure if measure.value in said)
