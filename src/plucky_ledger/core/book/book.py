"""The book: opening − saved + lost = closing, exactly, in every measure.

Lines stand in the order in which things happened. What they say rests on states of the PC: all
boots recorded in one state have one balance together, whenever they were recorded. A line that
comes back to a state takes nothing away and adds nothing: from there the account goes on, and what
was tried meanwhile keeps its measured effect and counts no more.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from plucky_ledger.core.book.balance import Balance, balance_of_round
from plucky_ledger.core.book.states_compared import compare_states
from plucky_ledger.core.book.verdict import Shift
from plucky_ledger.core.boots.boot import Boot
from plucky_ledger.core.job.job import Job, state_of
from plucky_ledger.core.job.pc_states import PcStates, states_of
from plucky_ledger.core.job.postings import Posting, PostingState
from plucky_ledger.core.values.measures import Measure


@dataclass(frozen=True, kw_only=True)
class BookLine:
    """One line of the book."""

    posting: Posting | None
    """None on the opening line."""
    state: PostingState | None
    boots: tuple[Boot, ...]
    """Of its own round."""
    balance: Balance | None
    """Of its state of the PC; None when no boot of its round has the measure."""
    shift: Shift | None = None
    """Against the state of ``compared_with``."""
    compared_with: int | None = None
    """Index of a line of the book."""
    same_as: int | None = None
    """Index of the first line with the same state of the PC; None where it is the first itself."""
    counts: bool = False
    """Its shift is part of what leads from the opening to the closing."""

    @property
    def saved_units(self) -> int:
        return max(0, -self.shift.units) if self.shift and self.counts else 0

    @property
    def lost_units(self) -> int:
        return max(0, self.shift.units) if self.shift and self.counts else 0


@dataclass(frozen=True)
class Book:
    """The account of one job in one measure. Amounts in whole book units of the measure."""

    measure: Measure
    lines: tuple[BookLine, ...]

    @property
    def opening(self) -> Balance | None:
        """First balance in the book."""
        return next((line.balance for line in self.lines if line.balance), None)

    @property
    def closing(self) -> Balance | None:
        """Last balance in the book."""
        return next((line.balance for line in reversed(self.lines) if line.balance), None)

    @property
    def saved_units(self) -> int:
        return sum(line.saved_units for line in self.lines)

    @property
    def lost_units(self) -> int:
        return sum(line.lost_units for line in self.lines)

    @property
    def balances(self) -> bool:
        """Whether opening − saved + lost = closing. Always true; the tests hold it to that."""
        if self.opening is None or self.closing is None:
            return self.saved_units == self.lost_units == 0
        return self.opening.units - self.saved_units + self.lost_units == self.closing.units


def keep_book(job: Job, measure: Measure) -> Book:
    """The book of a job in one measure.

    Set-aside boots and rounds lacking the measure leave the account whole.
    """
    states = states_of(job)
    lines = [_line(job, states, measure, index) for index in range(len(job.rounds))]
    measured = [index for index, line in enumerate(lines) if line.balance is not None]
    homes = {index: _home(states, measured, index) for index in measured}
    path = _path([homes[index] for index in measured])
    before = {**_predecessors(measured, homes), **dict(zip(path[1:], path, strict=False))}
    for index in measured:
        compared = before.get(index)
        lines[index] = replace(
            lines[index],
            shift=None
            if compared is None
            else compare_states(job, states, measure, homes[compared], index),
            compared_with=compared,
            same_as=homes[index] if homes[index] != index else None,
            counts=index in path,
        )
    return Book(measure, tuple(lines))


def _line(job: Job, states: PcStates, measure: Measure, index: int) -> BookLine:
    posting = (None, *job.postings)[index]
    return BookLine(
        posting=posting,
        state=state_of(job, posting) if posting else None,
        boots=job.rounds[index],
        balance=balance_of_round(job, states, measure, index),
    )


def _home(states: PcStates, measured: Sequence[int], index: int) -> int:
    """The first measured line with the same state."""
    state = states.of_round[index]
    return next(other for other in measured if states.of_round[other] == state)


def _path(homes: Sequence[int]) -> list[int]:
    """The lines that lead from the opening to the closing: what was come back from is left out."""
    path: list[int] = []
    for home in homes:
        if home in path:
            del path[path.index(home) + 1 :]
        else:
            path.append(home)
    return path


def _predecessors(measured: Sequence[int], homes: dict[int, int]) -> dict[int, int]:
    """The line each is held against: the last before it with another state."""
    found: dict[int, int] = {}
    for place, index in enumerate(measured):
        earlier = [other for other in measured[:place] if homes[other] != homes[index]]
        if earlier:
            found[index] = homes[earlier[-1]]
    return found


def compare_rounds(job: Job, measure: Measure, before: int, after: int) -> Shift | None:
    """The states of any two lines of the book held against each other (indices of lines)."""
    return compare_states(job, states_of(job), measure, before, after)
