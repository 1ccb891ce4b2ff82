"""The book: opening − saved + lost = closing, exactly, in every measure."""

from dataclasses import dataclass

from plucky_ledger.core.book.balance import Balance, balance_of
from plucky_ledger.core.book.drift import IN_MACHINE_TIME, adjusted, drift_between
from plucky_ledger.core.book.job import Job, Posting, PostingState, readings_in, state_of
from plucky_ledger.core.book.verdict import Shift, shift_between, with_drift
from plucky_ledger.core.boots.boot import Boot
from plucky_ledger.core.measures import Measure


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
            shift = _shift(job, measure, lines[last].boots, boots)
        state = state_of(job, posting) if posting else None
        lines.append(Line(posting, state, boots, balance, shift, last if shift else None))
        if balance is not None:
            last = len(lines) - 1
    return Book(measure, tuple(lines))


def compare_rounds(job: Job, measure: Measure, before: int, after: int) -> Shift | None:
    """Any two lines of the book held against each other (indices of lines)."""
    return _shift(job, measure, job.rounds[before], job.rounds[after])


def _shift(
    job: Job, measure: Measure, before: tuple[Boot, ...], after: tuple[Boot, ...]
) -> Shift | None:
    """The shift, judged with the machine's own drift in mind.

    What the controls explain is not the changes' doing: where the verdict does not survive taking
    the drift out, it is unproven.
    """
    sides = readings_in(before, measure), readings_in(after, measure)
    others = _other_rounds(job, measure, (before, after))
    plain = shift_between(measure, *sides, others)
    drift = drift_between(before, after)
    if plain is None or drift is None or measure not in IN_MACHINE_TIME:
        return plain
    fair = shift_between(measure, adjusted(sides[0], drift), sides[1], others)
    assert fair is not None
    return with_drift(plain, fair, drift)


def _other_rounds(
    job: Job, measure: Measure, compared: tuple[tuple[Boot, ...], ...]
) -> list[list[float]]:
    return [
        [reading.value for reading in readings_in(boots, measure) if not reading.censored]
        for boots in job.rounds
        if not any(boots is side for side in compared)
    ]
