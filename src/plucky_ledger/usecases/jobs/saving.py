"""Saving pictures and tables."""

import csv
import io
from collections.abc import Iterable, Sequence
from pathlib import Path

from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.exchange.saving import save_file

PICTURES = (".svg", ".png")


def save_picture(data: bytes, path: Path) -> None:
    """Save a picture of one of the kinds there are. Raises Trouble; what was there is kept."""
    if path.suffix.lower() not in PICTURES:
        raise Refused(TroubleCode.ENDING_UNKNOWN, path=str(path), endings=", ".join(PICTURES))
    save_file(data, path)


def save_table(rows: Iterable[Sequence[str]], separator: str, path: Path) -> None:
    """Save rows of cells, headings first, as CSV. Raises Trouble; what was there is kept."""
    text = io.StringIO(newline="")
    csv.writer(text, delimiter=separator).writerows(rows)
    save_file(text.getvalue().encode("utf-8-sig"), path)
