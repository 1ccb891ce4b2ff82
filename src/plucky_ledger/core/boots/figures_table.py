"""Figures from a table that something else has written: what columns mean, rows as boots."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum

from plucky_ledger.core.values.instants import FIRST_YEAR, LAST_YEAR
from plucky_ledger.core.values.measures import Measure, Unit, is_sensible

SCALES: Mapping[Unit, Mapping[str, float]] = {
    Unit.SECONDS: {"s": 1.0, "ms": 0.001, "min": 60.0},
    Unit.CPU_SECONDS: {"s": 1.0, "ms": 0.001, "min": 60.0},
    Unit.MEGABYTES: {"MB": 1.0, "kB": 0.001, "GB": 1000.0, "MiB": 1.048576, "GiB": 1073.741824},
    Unit.PROCESSES: {"": 1.0},
    Unit.PERCENT: {"%": 1.0},
}
"""By the unit of a measure, the units a column may be in and what one of each is in it."""
_NAMED: Sequence[tuple[str, Measure]] = (
    ("settle", Measure.SETTLED),
    ("rest", Measure.LOAD_AT_REST),
    ("ready", Measure.READY),
    ("system", Measure.SYSTEM_UP),
    ("cpu", Measure.CPU_WORK),
    ("read", Measure.DISK_READ),
    ("memory", Measure.MEMORY_HELD),
    ("process", Measure.PROCESSES),
    ("boot", Measure.SETTLED),
    ("startup", Measure.SETTLED),
)
"""What a heading has in it where it is likely to be about a measure; the first that fits counts."""
_INSTANTS = ("date", "when", "begun", "started at", "day", "timestamp")
_UNIT = re.compile(r"\s*[\[(,]\s*(\S+?)\s*[\])]?\s*$")


class RowFault(StrEnum):
    """Why a row is no boot."""

    NO_FIGURE = "no_figure"
    NOT_A_NUMBER = "not_a_number"
    CANNOT_BE = "cannot_be"
    NOT_AN_INSTANT = "not_an_instant"
    NOT_LATER = "not_later"
    """An instant that is not after the one before."""


@dataclass(frozen=True)
class Column:
    """What a column means."""

    measure: Measure | None
    """None for the instant at which the boot began."""
    unit: str = ""
    """One of ``SCALES``; empty for an instant, and for numbers of things."""

    @property
    def scale(self) -> float:
        """What one of its unit is in the measure's."""
        return SCALES[self.measure.terms.unit][self.unit] if self.measure is not None else 1.0


Columns = Mapping[int, Column]
"""By place; what is not here is left out."""


@dataclass(frozen=True)
class RowRead:
    """One row as a boot, or why it is none."""

    figures: Mapping[Measure, float]
    started_at: datetime | None
    fault: RowFault | None = None
    at: int | None = None
    """Place of the column at fault."""


def guessed(headings: Sequence[str]) -> dict[int, Column]:
    """What columns mean, as far as their headings tell; no two mean the same."""
    found: dict[int, Column] = {}
    for place, heading in enumerate(headings):
        column = _guess(heading)
        if column is not None and column.measure not in {one.measure for one in found.values()}:
            found[place] = column
    return found


def _guess(heading: str) -> Column | None:
    words = heading.strip().lower()
    if any(name in words for name in _INSTANTS):
        return Column(None)
    measure = next((measure for name, measure in _NAMED if name in words), None)
    if measure is None:
        return None
    units = SCALES[measure.terms.unit]
    _, unit = name_and_unit(heading)
    return Column(measure, unit if unit in units else next(iter(units)))


def name_and_unit(heading: str) -> tuple[str, str]:
    """What a heading calls a column, and the unit that stands at its end; empty for none."""
    found = _UNIT.search(heading)
    return (heading[: found.start()].strip(), found[1]) if found else (heading.strip(), "")


def row_read(cells: Sequence[str], columns: Columns) -> RowRead:
    """A row as a boot by what its columns mean."""
    figures: dict[Measure, float] = {}
    started_at = None
    for place, column in columns.items():
        text = cells[place].strip() if place < len(cells) else ""
        if not text:
            continue
        if column.measure is None:
            started_at = instant_in(text)
            if started_at is None:
                return RowRead({}, None, RowFault.NOT_AN_INSTANT, place)
            continue
        value = number_in(text)
        if value is None:
            return RowRead({}, None, RowFault.NOT_A_NUMBER, place)
        figures[column.measure] = value * column.scale
        if value < 0 or not is_sensible(figures[column.measure]):
            return RowRead({}, None, RowFault.CANNOT_BE, place)
    if not figures:
        return RowRead({}, None, RowFault.NO_FIGURE)
    return RowRead(figures, started_at)


def number_in(text: str) -> float | None:
    """A number with a point or a comma before its decimals; None for anything else."""
    plain = text.replace("\u00a0", "").replace("−", "-")
    if not re.fullmatch(r"[+-]?\d+(?:[.,]\d+)?(?:[eE][+-]?\d{1,3})?", plain, re.ASCII):
        return None
    return float(plain.replace(",", "."))


def instant_in(text: str) -> datetime | None:
    """ISO 8601, by this PC's clock where it names no zone."""
    try:
        moment = datetime.fromisoformat(text).astimezone()
    except (ValueError, OverflowError):
        return None
    return moment if FIRST_YEAR <= moment.year <= LAST_YEAR else None
