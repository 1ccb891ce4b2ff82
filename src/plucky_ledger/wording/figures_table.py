"""A table of figures in words: what its columns may mean, and what becomes of its rows."""

from collections.abc import Callable, Mapping, Sequence

from plucky_ledger.core.values.measures import Measure
from plucky_ledger.usecases.recording.figures_tables import (
    QUANTITY_SCALES,
    SCALES,
    Column,
    Meaning,
    Quantity,
    Row,
    RowFault,
    SampleColumn,
    SampleRow,
    Taken,
)
from plucky_ledger.wording.figures import day_and_time, number, percent, seconds, with_unit
from plucky_ledger.wording.labels import label
from plucky_ledger.wording.language import N_, say, say_n
from plucky_ledger.wording.safe import shown

_FAULTS: Mapping[RowFault, str] = {
    RowFault.NO_FIGURE: N_("no figure in it"),
    RowFault.NOT_A_NUMBER: N_("column {column}: no number"),
    RowFault.CANNOT_BE: N_("column {column}: not possible"),
    RowFault.NOT_LATER: N_("not later than the row before"),
    RowFault.NOT_AN_INSTANT: N_("column {column}: no date with time, such as 2026-11-12 08:46"),
}
_QUANTITIES: Mapping[Quantity, str] = {
    Quantity.AT: N_("since the start"),
    Quantity.CPU: N_("CPU load"),
    Quantity.DISK_BUSY: N_("drive at work"),
    Quantity.DISK_READ: N_("read from disk"),
    Quantity.MEMORY: N_("memory"),
    Quantity.PROCESSES: N_("processes"),
}
_IN_WORDS: Mapping[Quantity, Callable[[float], str]] = {
    Quantity.AT: seconds,
    Quantity.CPU: lambda share: percent(share, 0),
    Quantity.DISK_BUSY: lambda share: percent(share, 0),
    Quantity.DISK_READ: lambda rate: f"{number(rate / 1e6, 1)} MB/s",
    Quantity.MEMORY: lambda held: f"{number(held / 1e6, 0)} MB",
    Quantity.PROCESSES: lambda count: number(count, 0),
}


def meanings() -> tuple[tuple[Meaning | None, str], ...]:
    """Everything a column may mean, and what it is called."""
    measured = (
        (Column(measure, unit), _with_unit(label(measure), unit))
        for measure in Measure
        for unit in SCALES[measure.terms.unit]
    )
    sampled = (
        (
            SampleColumn(quantity, unit),
            say("sample: {what}", what=_with_unit(say(_QUANTITIES[quantity]), unit)),
        )
        for quantity in Quantity
        for unit in QUANTITY_SCALES[quantity]
    )
    return ((None, say("left out")), (Column(None), say("began at")), *measured, *sampled)


def _with_unit(what: str, unit: str) -> str:
    return f"{what}, {unit}" if unit else what


def row_in_words(row: Row, headings: Sequence[str]) -> str:
    """What a row comes to."""
    if row.fault is not None:
        column = headings[row.at] if row.at is not None and row.at < len(headings) else ""
        return fault_in_words(row.fault, column)
    if isinstance(row, SampleRow):
        return _sample_in_words(row)
    figures = (f"{label(one)} {with_unit(value, one)}" for one, value in row.figures.items())
    when = day_and_time(row.started_at) if row.started_at is not None else say("now")
    return " · ".join((when, *figures))


def fault_in_words(fault: RowFault, column: str) -> str:
    """Why a row is none, and which column's cell it is."""
    return say(_FAULTS[fault], column=shown(column))


def _sample_in_words(row: SampleRow) -> str:
    figures = (
        f"{say(_QUANTITIES[one])} {_IN_WORDS[one](value)}"
        for one, value in row.values.items()
        if one is not Quantity.AT
    )
    return " · ".join((seconds(row.values[Quantity.AT]), *figures))


def button(rows: Sequence[Row]) -> str:
    """What the button says that takes them in."""
    good = [row for row in rows if row.fault is None]
    if good and isinstance(good[0], SampleRow):
        return say_n("Take in a boot of {n} sample", "Take in a boot of {n} samples", len(good))
    return boots_button(len(good))


def boots_button(boots: int) -> str:
    """What the button says where each row is a boot."""
    return say_n("Take in {n} boot", "Take in {n} boots", boots)


def taken_in(taken: Taken) -> str:
    """What came of it."""
    if taken.samples:
        told = say_n("{n} sample", "{n} samples", taken.samples)
        return say(
            "A boot of {samples} is in the book. If somebody had to sign in, set those marks "
            "(Ctrl+M): that wait is not the PC's.",
            samples=told,
        )
    return say_n("{n} boot is in the book.", "{n} boots are in the book.", taken.boots)
