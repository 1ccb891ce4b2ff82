"""A table of figures in words: what its columns may mean, and what becomes of its rows."""

from collections.abc import Mapping, Sequence

from plucky_ledger.core.boots.figures_table import SCALES, Column, RowFault, RowRead
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.wording.figures import day_and_time, with_unit
from plucky_ledger.wording.labels import label
from plucky_ledger.wording.language import N_, say, say_n
from plucky_ledger.wording.safe import shown

_FAULTS: Mapping[RowFault, str] = {
    RowFault.NO_FIGURE: N_("no figure in it"),
    RowFault.NOT_A_NUMBER: N_("column {column}: no number"),
    RowFault.CANNOT_BE: N_("column {column}: not possible"),
    RowFault.NOT_AN_INSTANT: N_("column {column}: no date with time, such as 2026-11-12 08:46"),
}


def meanings() -> tuple[tuple[Column | None, str], ...]:
    """Everything a column may mean, and what it is called."""
    measured = (
        (Column(measure, unit), _named(measure, unit))
        for measure in Measure
        for unit in SCALES[measure.terms.unit]
    )
    return ((None, say("left out")), (Column(None), say("began at")), *measured)


def _named(measure: Measure, unit: str) -> str:
    return f"{label(measure)}, {unit}" if unit else label(measure)


def row_in_words(row: RowRead, headings: Sequence[str]) -> str:
    """What a row comes to."""
    if row.fault is not None:
        column = headings[row.at] if row.at is not None and row.at < len(headings) else ""
        return say(_FAULTS[row.fault], column=shown(column))
    figures = (f"{label(one)} {with_unit(value, one)}" for one, value in row.figures.items())
    when = day_and_time(row.started_at) if row.started_at is not None else say("now")
    return " · ".join((when, *figures))


def button(rows: Sequence[RowRead]) -> str:
    """What the button says that takes them in."""
    good = sum(row.fault is None for row in rows)
    return say_n("Take in {n} boot", "Take in {n} boots", good)


def taken_in(boots: int) -> str:
    """What came of it."""
    return say_n("{n} boot is in the book.", "{n} boots are in the book.", boots)
