"""Boots in turns and night shifts: many lines of the book of little interest each, shown as one."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from itertools import groupby

from plucky_ledger.pages.book import BookRow, BootCounts


class FoldKind(StrEnum):
    """What made several lines of the book by itself."""

    TURNS = "turns"
    """The PC came back to states that stand in the book already, again and again."""
    NIGHT = "night"


@dataclass(frozen=True)
class Fold:
    """Lines that follow each other and are shown as one."""

    kind: FoldKind
    first: int
    """Index of its first line."""
    last: int


@dataclass(frozen=True)
class ShownLine:
    """A line of the book as it is shown."""

    row: BookRow
    fold: Fold | None
    """Lines that it stands for, itself the last of them; None where it stands for itself."""


FEWEST_FOLDED = {FoldKind.TURNS: 3, FoldKind.NIGHT: 2}
"""Lines from which they are folded."""


def folds_of(rows: Sequence[BookRow]) -> tuple[Fold, ...]:
    """Runs of lines that can be shown as one."""
    found = []
    for (kind, _), run in groupby(enumerate(rows), key=lambda numbered: _made_by(numbered[1])):
        lines = [index for index, _row in run]
        if kind is not None and len(lines) >= FEWEST_FOLDED[kind]:
            found.append(Fold(kind, lines[0], lines[-1]))
    return tuple(found)


def _made_by(row: BookRow) -> tuple[FoldKind | None, str]:
    if row.posting is not None and row.posting.series:
        return FoldKind.NIGHT, row.posting.series
    return (FoldKind.TURNS if row.repeats else None), ""


def shown_lines(rows: Sequence[BookRow]) -> tuple[ShownLine, ...]:
    """The lines with each fold as one, in their order."""
    folds = {fold.last: fold for fold in folds_of(rows)}
    away = {line for fold in folds.values() for line in range(fold.first, fold.last)}
    return tuple(
        ShownLine(folded_row(rows, fold) if (fold := folds.get(index)) else row, fold)
        for index, row in enumerate(rows)
        if index not in away
    )


def folded_row(rows: Sequence[BookRow], fold: Fold) -> BookRow:
    """The last line of a fold with what all of them hold."""
    members = rows[fold.first : fold.last + 1]
    counts = [row.boots for row in members]
    return replace(
        members[-1],
        saved_units=sum(row.saved_units for row in members),
        lost_units=sum(row.lost_units for row in members),
        boots=BootCounts(
            starts=sum(count.starts for count in counts),
            at_rest=sum(count.at_rest for count in counts),
            aside=sum(count.aside for count in counts),
        ),
        first_boot_at=next((row.first_boot_at for row in members if row.first_boot_at), None),
        dots=tuple(dot for row in members for dot in row.dots),
        moved=None,
    )
