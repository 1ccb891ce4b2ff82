"""Figures that something else has measured, taken into a job's book from a table."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from plucky_ledger.core.boots.boot import Boot, How
from plucky_ledger.core.boots.figures_table import (
    SCALES,
    Column,
    RowFault,
    RowRead,
    row_read,
)
from plucky_ledger.core.boots.figures_table import guessed as guessed_figures
from plucky_ledger.core.boots.samples_table import (
    QUANTITY_SCALES,
    Quantity,
    SampleColumn,
    SampleColumns,
    SampleRow,
    counted_from,
    guessed_samples,
    samples_read,
    untold_by,
)
from plucky_ledger.core.job.rounds import round_of
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.values.measures import Reading
from plucky_ledger.core.values.steps import StepCode
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.exchange.boots import boot_from_bytes
from plucky_ledger.exchange.figures_table import FiguresTable, read_table
from plucky_ledger.exchange.samples_table import recording_of_table
from plucky_ledger.store import boots as stored
from plucky_ledger.store.jobs import read_job
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.undo import step
from plucky_ledger.usecases.jobs.clock import now
from plucky_ledger.usecases.recording.boots import keep_recorded

__all__ = [
    "QUANTITY_SCALES",
    "SCALES",
    "Column",
    "Columns",
    "FiguresTable",
    "Meaning",
    "Quantity",
    "Row",
    "RowFault",
    "RowRead",
    "SampleColumn",
    "SampleRow",
    "Taken",
    "guessed",
    "previewed",
    "read_table",
    "take_in_table",
]
Meaning = Column | SampleColumn
Columns = Mapping[int, Meaning]
"""By place; what is not here is left out."""
Row = RowRead | SampleRow


@dataclass(frozen=True)
class Taken:
    """What came of a table."""

    boots: int
    samples: int = 0
    """Rows of the one boot that it is; 0 where each row is a boot."""


def guessed(headings: Sequence[str]) -> Mapping[int, Meaning]:
    """What columns mean, as far as their headings tell: samples, where one is the time."""
    return guessed_samples(headings) or guessed_figures(headings)


def is_of_samples(columns: Columns) -> bool:
    """Whether rows are instants of one boot; else each is a boot of its own."""
    return any(isinstance(column, SampleColumn) for column in columns.values())


def previewed(table: FiguresTable, columns: Columns) -> tuple[Row, ...]:
    """Each row as a boot or an instant, or why it is none."""
    if is_of_samples(columns):
        return tuple(samples_read(table.rows, _sample_columns(columns)))
    figures = {at: one for at, one in columns.items() if isinstance(one, Column)}
    return tuple(row_read(cells, figures) for cells in table.rows)


def _sample_columns(columns: Columns) -> SampleColumns:
    return {at: one for at, one in columns.items() if isinstance(one, SampleColumn)}


def take_in_table(ledger: Ledger, number: int, table: FiguresTable, columns: Columns) -> Taken:
    """Put what a table holds into the book, in one step.

    A boot whose row tells no instant began now. One that the book has already, from such a table,
    is left out.

    Raises:
        Refused: there is nothing new in it.
    """
    rows = [row for row in previewed(table, columns) if row.fault is None]
    if not rows:
        raise Refused(TroubleCode.NO_FIGURE)
    samples = [row for row in rows if isinstance(row, SampleRow)]
    if samples:
        _take_in_samples(ledger, number, table, columns, samples)
        return Taken(1, len(samples))
    return Taken(_take_in_boots(ledger, number, [row for row in rows if isinstance(row, RowRead)]))


def _take_in_samples(
    ledger: Ledger,
    number: int,
    table: FiguresTable,
    columns: Columns,
    rows: Sequence[SampleRow],
) -> None:
    with ledger.session() as session:
        cores = read_job(session, number).facts.cores
    began = [at for at, column in columns.items() if column == Column(None)]
    read = (row_read(cells, {began[0]: Column(None)}) for cells in table.rows) if began else ()
    started_at = next((one.started_at for one in read if one.started_at), None) or now()
    counted = counted_from(rows, cores or 1)
    untold = untold_by(_sample_columns(columns), cores_known=bool(cores))
    data = recording_of_table(counted, untold, started_at, table.name, cores or 1)
    recorded = replace(boot_from_bytes(data), facts=Facts())
    if keep_recorded(ledger, number, recorded, data).boot is None:
        raise Refused(TroubleCode.TABLE_IS_KNOWN)


def _take_in_boots(ledger: Ledger, number: int, rows: Sequence[RowRead]) -> int:
    with step(ledger, StepCode.ADD_TABLE, number, boots=len(rows)) as session:
        job = read_job(session, number)
        there = {(b.started_at, _figures(b)) for b in job.boots if b.how is How.TYPED}
        added = 0
        for row in rows:
            boot = Boot(
                number=0,
                started_at=row.started_at or now(),
                how=How.TYPED,
                readings={measure: Reading(value) for measure, value in row.figures.items()},
            )
            if row.started_at is not None and (boot.started_at, _figures(boot)) in there:
                continue
            posting = round_of(job, "", boot.started_at, now())
            stored.add_boot(session, number, posting, boot)
            added += 1
        if not added:
            raise Refused(TroubleCode.TABLE_IS_KNOWN)
    return added


def _figures(boot: Boot) -> frozenset[tuple[str, float]]:
    return frozenset((measure.value, one.value) for measure, one in boot.readings.items())
