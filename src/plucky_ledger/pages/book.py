"""The left page: the book's lines as values, and the next step."""

from dataclasses import dataclass, replace
from datetime import datetime

from plucky_ledger.core.book.balance import Balance
from plucky_ledger.core.book.book import BookLine, keep_book
from plucky_ledger.core.book.moved_later import MovedLater, moved_later
from plucky_ledger.core.book.next_step import NextStep, next_step
from plucky_ledger.core.book.verdict import Shift
from plucky_ledger.core.boots.boot import Boot
from plucky_ledger.core.job.job import Card, Job, posting_of
from plucky_ledger.core.job.pc_states import PcStates, states_of
from plucky_ledger.core.job.postings import Posting, PostingState
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.pc.which import PcKind
from plucky_ledger.core.replay.startup_cost import PlanEstimate
from plucky_ledger.core.values.axes import Span, with_air
from plucky_ledger.core.values.estimates import Estimate
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.usecases.recording.pcs import pc_of


@dataclass(frozen=True)
class Dot:
    """One boot on the dot strip."""

    boot: int
    value: float
    """In the measure's unit."""
    aside: bool = False
    """Set aside: drawn crossed out and not in the balance."""
    censored: bool = False
    """The real figure lies further right."""


@dataclass(frozen=True)
class BootCounts:
    """How many boots a round has."""

    starts: int
    """In the account, and telling of a start."""
    at_rest: int
    """Readings at rest in the account."""
    aside: int


@dataclass(frozen=True, kw_only=True)
class BookRow:
    """One line of the book."""

    index: int
    """Index of the line in the book; the balance line at the foot has the index behind the last."""
    posting: Posting | None
    """None on the opening line."""
    put_back: Posting | None
    """The posting that this one undoes."""
    state: PostingState | None
    saved_units: int
    lost_units: int
    balance: Balance | None
    shift: Shift | None
    measure: Measure
    boots: BootCounts
    first_boot_at: datetime | None
    dots: tuple[Dot, ...]
    repeats: bool = False
    """The PC came back to a state that stands in the book already."""
    as_after: Posting | None = None
    """The posting that first made that state; None for the opening's."""
    expected: Estimate | None = None
    """Where the balance is expected to stand after it, in the measure's unit."""
    moved: MovedLater | None = None
    """Work that is not gone since the line before, but comes later."""

    @property
    def opens(self) -> bool:
        """It is the opening round, or that of a later visit."""
        return self.posting is None or self.posting.opens_visit

    @property
    def typical(self) -> float | None:
        """Where the balance stands on the dot strip, in the measure's unit."""
        return self.balance.value if self.balance else None


@dataclass(frozen=True, kw_only=True)
class BookPage:
    """Everything the left page shows."""

    card: Card
    facts: Facts
    measure: Measure
    rows: tuple[BookRow, ...]
    saved_units: int
    lost_units: int
    opening: Balance | None
    closing: Balance | None
    span: Span | None
    """Ends of the dot strips' common axis, in the measure's unit; None where there is no dot."""
    step: NextStep
    by_restart: bool = False
    """Recording this PC is arming the recorder and restarting."""


def book_page(job: Job, measure: Measure) -> BookPage:
    """The book of a job kept in ``measure``, ready to be shown."""
    book = keep_book(job, measure)
    states = states_of(job)
    rows = tuple(_row(job, states, measure, index, line) for index, line in enumerate(book.lines))
    return BookPage(
        card=job.card,
        facts=job.facts,
        measure=measure,
        rows=rows,
        saved_units=book.saved_units,
        lost_units=book.lost_units,
        opening=book.opening,
        closing=book.closing,
        span=_span(rows),
        step=next_step(job, measure),
        by_restart=job.pc.kind is PcKind.REAL and pc_of(job).abilities.arm,
    )


def expecting(page: BookPage, expected: PlanEstimate | None) -> BookPage:
    """The same page with what its pencilled changes would bring; None where that is not known."""
    if expected is None:
        return page
    rows = tuple(_with_expected(row, page.measure, expected) for row in page.rows)
    return replace(page, rows=rows, span=_span(rows))


def _row(job: Job, states: PcStates, measure: Measure, index: int, line: BookLine) -> BookRow:
    undone = line.posting.strikes_out if line.posting else None
    first = (None, *job.postings)[line.same_as] if line.same_as is not None else None
    return BookRow(
        index=index,
        posting=line.posting,
        put_back=posting_of(job, undone) if undone is not None else None,
        state=line.state,
        saved_units=line.saved_units,
        lost_units=line.lost_units,
        balance=line.balance,
        shift=line.shift,
        measure=measure,
        boots=boot_counts(line.boots),
        first_boot_at=line.boots[0].started_at if line.boots else None,
        dots=dots(line.boots, measure),
        repeats=line.same_as is not None,
        as_after=first,
        expected=line.posting.expected.get(measure) if line.posting else None,
        moved=_moved(job, states, index, line),
    )


def _moved(job: Job, states: PcStates, index: int, line: BookLine) -> MovedLater | None:
    if line.compared_with is None or line.same_as is not None:
        return None
    return moved_later(states.boots(job, line.compared_with), states.boots(job, index))


def boot_counts(boots: tuple[Boot, ...]) -> BootCounts:
    """How many boots a round has, by kind."""
    counting = [boot for boot in boots if boot.counts]
    starts = sum(boot.is_start for boot in counting)
    return BootCounts(starts, len(counting) - starts, len(boots) - len(counting))


def _with_expected(row: BookRow, measure: Measure, expected: PlanEstimate) -> BookRow:
    """The pencilled line with what is expected of it, in the measures a replay can tell."""
    seconds = expected.balances.get(measure)
    pencilled = row.state is PostingState.PENCILLED
    return replace(row, expected=seconds) if pencilled and seconds is not None else row


def dots(boots: tuple[Boot, ...], measure: Measure) -> tuple[Dot, ...]:
    """One dot per boot that has a reading, also for those set aside."""
    return tuple(
        Dot(boot.number, reading.value, not boot.counts, reading.censored)
        for boot in boots
        if (reading := boot.readings.get(measure)) is not None
    )


def _span(rows: tuple[BookRow, ...]) -> Span | None:
    """Common axis of all dot strips, with a little air at both ends."""
    values = [dot.value for row in rows for dot in row.dots]
    values += [row.expected.value for row in rows if row.expected is not None]
    span = with_air(values, 0.08, 0.02, 0.5)
    return (max(0.0, span[0]), span[1]) if span else None
