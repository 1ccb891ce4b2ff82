"""Figures that something else has measured, taken into a job's book from a table."""

from collections.abc import Sequence

from plucky_ledger.core.boots.boot import Boot, How
from plucky_ledger.core.boots.figures_table import (
    SCALES,
    Column,
    Columns,
    RowFault,
    RowRead,
    guessed,
    row_read,
)
from plucky_ledger.core.job.rounds import round_of
from plucky_ledger.core.values.measures import Reading
from plucky_ledger.core.values.steps import StepCode
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.exchange.figures_table import FiguresTable, read_table
from plucky_ledger.store import boots as stored
from plucky_ledger.store.jobs import read_job
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.undo import step
from plucky_ledger.usecases.jobs.clock import now

__all__ = [
    "SCALES",
    "Column",
    "Columns",
    "FiguresTable",
    "RowFault",
    "RowRead",
    "guessed",
    "previewed",
    "read_table",
    "take_in_table",
]


def previewed(table: FiguresTable, columns: Columns) -> tuple[RowRead, ...]:
    """Each row as a boot, or why it is none."""
    return tuple(row_read(cells, columns) for cells in table.rows)


def take_in_table(ledger: Ledger, number: int, rows: Sequence[RowRead]) -> int:
    """Put the rows that are boots into the book, in one step; returns how many those are.

    A boot whose row tells no instant began now. One that the book has already, from such a table,
    is left out.

    Raises:
        Refused: there is no such row.
    """
    good = [row for row in rows if row.fault is None]
    if not good:
        raise Refused(TroubleCode.NO_FIGURE)
    with step(ledger, StepCode.ADD_TABLE, number, boots=len(good)) as session:
        job = read_job(session, number)
        there = {(b.started_at, _figures(b)) for b in job.boots if b.how is How.TYPED}
        added = 0
        for row in good:
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
