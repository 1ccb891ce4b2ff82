"""Figures from a table into a job's book: shown first, then taken in."""

import re
from pathlib import Path
from typing import TYPE_CHECKING

import click

from plucky_ledger.cli.common import job_argument, ledger_option, opened
from plucky_ledger.cli.output import Paper, tell
from plucky_ledger.core.boots.figures_table import SCALES, Column
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.wording.language import say

if TYPE_CHECKING:
    from plucky_ledger.usecases.recording.figures_tables import Meaning, SampleColumn

BEGAN, LEFT_OUT, SAMPLE = "began", "none", "sample."


@click.command("import-table")
@job_argument
@click.argument("file", type=click.Path(path_type=Path))
@click.option(
    "--column",
    "columns",
    multiple=True,
    metavar="N=MEANING",
    help="What the Nth column means: a measure with its unit, such as settled:ms, or began, or "
    "none; of one boot's samples sample.at:s, sample.cpu and others; else as its heading tells.",
)
@click.option("--take", is_flag=True, help="Take the boots in; without it they are only shown.")
@ledger_option
def import_table(
    job: str, file: Path, columns: tuple[str, ...], take: bool, ledger: str | None
) -> None:
    """Take figures that something else has measured from the table FILE (CSV) into JOB's book."""
    from plucky_ledger.usecases.jobs.jobs import find_job
    from plucky_ledger.usecases.recording.figures_tables import (
        guessed,
        previewed,
        read_table,
        take_in_table,
    )
    from plucky_ledger.wording.figures_table import row_in_words, taken_in

    with opened(ledger) as book:
        number, table = find_job(book, job), read_table(file)
        meant = dict(guessed(table.headings))
        for place, column in map(_column, columns):
            meant.pop(place, None)
            if column is not None:
                meant[place] = column
        rows = previewed(table, meant)
        if take:
            tell(taken_in(take_in_table(book, number, table, meant)))
            return
    paper = Paper()
    paper.table(
        (*table.headings, say("becomes")),
        [
            (*cells, row_in_words(row, table.headings))
            for cells, row in zip(table.rows, rows, strict=True)
        ],
    )
    paper.write(say("Nothing was taken in yet: --take does it."))


def _column(told: str) -> "tuple[int, Meaning | None]":
    """Place and meaning. Raises UsageError."""
    found = re.fullmatch(r"(\d+)=([\w.]+)(?::(\S*))?", told)
    if found and int(found[1]) > 0:
        place, name, unit = int(found[1]) - 1, found[2], found[3]
        if name in {BEGAN, LEFT_OUT}:
            return place, Column(None) if name == BEGAN else None
        meaning = _measured(name, unit) or _sampled(name, unit)
        if meaning is not None:
            return place, meaning
    raise click.UsageError(say("{told}: say it like 2=settled:ms, 1=began or 3=none.", told=told))


def _measured(name: str, unit: str | None) -> Column | None:
    if name not in {measure.value for measure in Measure}:
        return None
    units = SCALES[Measure(name).terms.unit]
    wanted = unit or next(iter(units))
    return Column(Measure(name), wanted) if wanted in units else None


def _sampled(name: str, unit: str | None) -> "SampleColumn | None":
    from plucky_ledger.usecases.recording.figures_tables import (
        QUANTITY_SCALES,
        Quantity,
        SampleColumn,
    )

    quantity = name.removeprefix(SAMPLE)
    if not name.startswith(SAMPLE) or quantity not in {one.value for one in Quantity}:
        return None
    units = QUANTITY_SCALES[Quantity(quantity)]
    wanted = unit or next(iter(units))
    return SampleColumn(Quantity(quantity), wanted) if wanted in units else None
