"""The book: opening − saved + lost = closing, exactly, in every measure."""

from dataclasses import dataclass

from plucky_ledger.core.boot import Boot
from plucky_ledger.core.job import Job, Posting, PostingState, readings_in, state_of
from plucky_ledger.core.location import Balance, balance_of
from plucky_ledger.core.measures import Measure
from plucky_ledger.core.shift import Shift, shift_between


@dataclass(frozen=True)
class Line:
    """One line of the book."""

    posting: Posting | None
    """None on the opening line."""
    state: PostingState | None
    boots: tuple[Boot, ...]
    balance: Balance | None
    """None when no boot of its round has the measure: the balance before then stands."""
    shift: Shift | None
    """Against the last line that has a balance."""
    compared_with: int | None
    """Index of that line in the book."""

    @property
    def saved_units(self) -> int:
        return max(0, -self.shift.units) if self.shift else 0

    @property
    def lost_units(self) -> int:
        return max(0, self.shift.units) if self.shift else 0


@dataclass(frozen=True)
class Book:
    """The account of one job in one measure. Amounts in whole book units of the measure."""

    measure: Measure
    lines: tuple[Line, ...]

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

    Each line is held against the last line before it that has a balance, so that set-aside boots
    and rounds lacking the measure leave the account whole. A struck-out posting stays in the book:
    what it did was done, and the posting that put it back has its own line.
    """
    lines: list[Line] = []
    last: int | None = None
    for posting, boots in zip((None, *job.postings), job.rounds, strict=True):
        readings = readings_in(boots, measure)
        balance = balance_of(measure, readings)
        shift = None
        if balance is not None and last is not None:
            shift = shift_between(
                measure,
                readings_in(lines[last].boots, measure),
                readings,
                _other_rounds(job, measure, (lines[last].boots, boots)),
            )
        state = state_of(job, posting) if posting else None
        lines.append(Line(posting, state, boots, balance, shift, last if shift else None))
        if balance is not None:
            last = len(lines) - 1
    return Book(measure, tuple(lines))


def compare_rounds(job: Job, measure: Measure, before: int, after: int) -> Shift | None:
    """Any two lines of the book held against each other (indices of lines)."""
    rounds = job.rounds
    return shift_between(
        measure,
        readings_in(rounds[before], measure),
        readings_in(rounds[after], measure),
        _other_rounds(job, measure, (rounds[before], rounds[after])),
    )


def _other_rounds(
    job: Job, measure: Measure, compared: tuple[tuple[Boot, ...], ...]
) -> list[list[float]]:
    return [
        [reading.value for reading in readings_in(boots, measure) if not reading.censored]
        for boots in job.rounds
        if not any(boots is side for side in compared)
    ]
