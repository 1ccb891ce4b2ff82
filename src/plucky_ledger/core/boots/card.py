"""A card on which boots timed by hand are written down, row by row."""

import re
from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import date, datetime

from plucky_ledger.core.boots.figures_table import RowFault, instant_in
from plucky_ledger.core.boots.marks import PERSON_MARKS, Mark, Marks, faults

CARD_ROWS = 8
SEEN = PERSON_MARKS[1:]
"""Marks a card has a column for; the stopwatch begins with the power button."""
LONGEST_SECONDS = 86_400.0
_DURATION = re.compile(r"(?:(\d{1,4}):)?(\d{1,6}(?:[.,]\d{1,6})?)", re.ASCII)
_CLOCK = re.compile(r"\d{1,2}:\d{2}", re.ASCII)


@dataclass(frozen=True)
class CardRow:
    """One row as a boot, or why it is none."""

    marks: Marks = field(default_factory=dict)
    started_at: datetime | None = None
    """None where the card does not say."""
    fault: RowFault | None = None
    at: int | None = None
    """Place of the cell at fault."""


def card_row(cells: Sequence[str], today: date) -> CardRow | None:
    """A row of a card: when the boot began, then a time for each of ``SEEN``; None for an empty
    one.

    A clock's time without a day is ``today``. Times are seconds, or minutes and seconds with a
    colon between.
    """
    texts = [cell.strip() for cell in cells]
    if not any(texts):
        return None
    began = None
    if texts[0]:
        began = instant_in(f"{today} {texts[0]:0>5}" if _CLOCK.fullmatch(texts[0]) else texts[0])
        if began is None:
            return CardRow(fault=RowFault.NOT_AN_INSTANT, at=0)
    marks: dict[Mark, float] = {Mark.POWER_ON: 0.0}
    for place, (mark, text) in enumerate(zip(SEEN, texts[1:], strict=False), 1):
        if not text:
            continue
        seconds = duration_in(text)
        if seconds is None:
            return CardRow(fault=RowFault.NOT_A_NUMBER, at=place)
        if seconds > LONGEST_SECONDS:
            return CardRow(fault=RowFault.CANNOT_BE, at=place)
        marks[mark] = seconds
    if len(marks) == 1:
        return CardRow(fault=RowFault.NO_FIGURE)
    if faults(marks):
        return CardRow(fault=RowFault.NOT_LATER)
    return CardRow(marks, began)


def duration_in(text: str) -> float | None:
    """Seconds, or minutes and seconds ("1:12.3"); None for anything else."""
    found = _DURATION.fullmatch(text)
    if found is None:
        return None
    minutes, seconds = found[1], float(found[2].replace(",", "."))
    if minutes is None:
        return seconds
    return 60.0 * int(minutes) + seconds if seconds < 60.0 else None
