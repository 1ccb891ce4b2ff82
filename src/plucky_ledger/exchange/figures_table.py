"""Tables of figures as spreadsheets write them: cells parted by commas, semicolons or tabs."""

import csv
import io
from dataclasses import dataclass
from pathlib import Path

from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.exchange.chosen_file import read_chosen

LARGEST_TABLE = 4_000_000
MOST_ROWS, MOST_COLUMNS = 5_000, 100
PARTED_BY = ",;\t"


@dataclass(frozen=True)
class FiguresTable:
    """What stands in such a file."""

    name: str
    headings: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]


def read_table(path: Path) -> FiguresTable:
    """Read a table. Raises Refused."""
    return table_from(read_chosen(path, LARGEST_TABLE), path.name)


def table_from(data: bytes, name: str) -> FiguresTable:
    """The same from its bytes. Raises Refused where it is none."""
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = data.decode("cp1252", "replace")
    first = text.partition("\n")[0]
    separator = max(PARTED_BY, key=first.count)
    try:
        rows = [
            tuple(cell.strip() for cell in row)
            for row in csv.reader(io.StringIO(text), delimiter=separator)
            if any(cell.strip() for cell in row)
        ]
    except csv.Error as error:
        raise Refused(TroubleCode.NOT_A_TABLE, name=name) from error
    if len(rows) < 2 or len(rows) > MOST_ROWS or max(map(len, rows)) > MOST_COLUMNS:
        raise Refused(TroubleCode.NOT_A_TABLE, name=name)
    return FiguresTable(name, rows[0], tuple(rows[1:]))
