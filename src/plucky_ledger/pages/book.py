"""The left page: the book's lines as they are shown, and the next step."""

from collections.abc import Callable
from dataclasses import dataclass, replace

from plucky_ledger.core.book.book import Book, Line, keep_book
from plucky_ledger.core.book.job import Job, PostingState
from plucky_ledger.core.book.next_step import NextStep, Step, next_step
from plucky_ledger.core.boots.boot import Boot
from plucky_ledger.core.cost.cost import PlanEstimate
from plucky_ledger.core.measures import Measure
from plucky_ledger.usecases.boots import boots_in_words
from plucky_ledger.wording.figures import (
    count,
    day,
    facts_in_brief,
    plain,
    saved_or_lost,
    shown,
    units,
    with_unit,
)


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
class BookRow:
    """One line of the book in words and dots."""

    index: int
    """Index of the line in the book; the balance line at the foot has the index behind the last."""
    particulars: str
    state: PostingState | None
    """None on the opening line."""
    saved: str
    lost: str
    balance: str
    remark: str
    dots: tuple[Dot, ...]
    typical: float | None
    """Where the balance stands on the dot strip, in the measure's unit."""
    posting: int | None
    expected: float | None = None
    """Where the balance is expected to stand after it, in the measure's unit."""

    @property
    def spoken(self) -> str:
        """The line as one sentence, for who cannot see it."""
        parts = [self.particulars]
        if self.state:
            parts.append(str(self.state))
        if self.saved:
            parts.append(f"saved {self.saved}")
        if self.lost:
            parts.append(f"lost {self.lost}")
        parts.append(f"balance {self.balance}" if self.balance else "no balance yet")
        return ", ".join([*parts, self.remark])


@dataclass(frozen=True)
class BookPage:
    """Everything the left page shows."""

    title: str
    subtitle: str
    measure: Measure
    rows: tuple[BookRow, ...]
    saved: str
    lost: str
    closing: str
    span: tuple[float, float]
    """Ends of the dot strips' common axis, in the measure's unit."""
    step: Step
    next_sentence: str
    next_button: str


def book_page(job: Job, measure: Measure, expected: PlanEstimate | None = None) -> BookPage:
    """The book of a job kept in ``measure``, ready to be shown.

    ``expected`` is what the pencilled changes would bring.
    """
    book = keep_book(job, measure)
    rows = tuple(_row(book, index) for index in range(len(book.lines)))
    if expected is not None:
        rows = tuple(_with_expected(row, measure, expected) for row in rows)
    step = next_step(job, measure)
    return BookPage(
        title=shown(job.card.title),
        subtitle=subtitle(job),
        measure=measure,
        rows=rows,
        saved=units(book.saved_units, measure) if book.saved_units else "",
        lost=units(book.lost_units, measure) if book.lost_units else "",
        closing=_closing(book),
        span=_span(rows),
        step=step.step,
        next_sentence=_NEXT_SENTENCES[step.step](step),
        next_button=_NEXT_BUTTONS[step.step],
    )


def subtitle(job: Job) -> str:
    """Label, owner and what the PC has, in one line."""
    parts = [f"job {job.card.label}", job.card.owner, facts_in_brief(job.facts)]
    return " · ".join(shown(part) for part in parts if part)


def _closing(book: Book) -> str:
    closing = book.closing
    if closing is None:
        return ""
    text = with_unit(closing.value, book.measure)
    return f"{text} or more" if closing.at_least else text


def _row(book: Book, index: int) -> BookRow:
    line, measure = book.lines[index], book.measure
    return BookRow(
        index=index,
        particulars=_particulars(line),
        state=line.state,
        saved=units(line.saved_units, measure) if line.saved_units else "",
        lost=units(line.lost_units, measure) if line.lost_units else "",
        balance=_balance(line, measure),
        remark=_remark(line),
        dots=tuple(dots(line.boots, measure)),
        typical=line.balance.value if line.balance else None,
        posting=line.posting.number if line.posting else None,
    )


def _with_expected(row: BookRow, measure: Measure, expected: PlanEstimate) -> BookRow:
    """The pencilled line with what is expected of it, in the measures a replay can tell."""
    found = {Measure.SETTLED: expected.settled, Measure.SYSTEM_UP: expected.system_up}.get(measure)
    if row.state is not PostingState.PENCILLED or found is None:
        return row
    span = f"{plain(max(0.0, found.low), measure)} to {with_unit(found.high, measure)}"
    return replace(row, remark=f"expected {span} · not yet done", expected=found.value)


def _balance(line: Line, measure: Measure) -> str:
    if line.balance is None:
        return ""
    text = units(line.balance.units, measure)
    return f"≥ {text}" if line.balance.at_least else text


def _particulars(line: Line) -> str:
    if line.posting is None:
        return "Opening round"
    text = shown(line.posting.particulars)
    return f"Pencilled: {text}" if line.state is PostingState.PENCILLED else text


def _remark(line: Line) -> str:
    if line.state is PostingState.PENCILLED and line.posting:
        return f"{count(len(line.posting.changes), 'change')} · not yet done"
    if line.state is PostingState.POSTED:
        return "posted · restart due"
    if not line.boots:
        return "no boot recorded yet"
    parts = [day(line.boots[0].started_at), boots_in_words(line.boots)]
    if line.state is PostingState.STRUCK_OUT:
        parts.append("struck out")
    if line.shift is not None:
        parts.append(saved_or_lost(line.shift))
    elif line.balance is None:
        parts.append("none has this measure")
    return " · ".join(parts)


def dots(boots: tuple[Boot, ...], measure: Measure) -> list[Dot]:
    """One dot per boot that has a reading, also for those set aside."""
    return [
        Dot(boot.number, reading.value, not boot.counts, reading.censored)
        for boot in boots
        if (reading := boot.readings.get(measure)) is not None
    ]


def _span(rows: tuple[BookRow, ...]) -> tuple[float, float]:
    """Common axis of all dot strips, with a little air at both ends."""
    values = [dot.value for row in rows for dot in row.dots]
    values += [row.expected for row in rows if row.expected is not None]
    if not values:
        return (0.0, 1.0)
    low, high = min(values), max(values)
    air = max((high - low) * 0.08, abs(high) * 0.02, 0.5)
    return (max(0.0, low - air), high + air)


_NEXT_BUTTONS = {
    Step.RECORD_OPENING: "Record…",
    Step.DECIDE: "Decide…",
    Step.POST: "Post…",
    Step.RESTART: "Record…",
    Step.RECORD_MORE: "Record…",
    Step.STATE: "Statement",
}


def _record_opening(step: NextStep) -> str:
    return f"Record {count(step.count, 'opening boot')} before anything is touched."


def _post(step: NextStep) -> str:
    return f"Post the {count(step.count, 'pencilled change')}, then restart."


def _record_more(step: NextStep) -> str:
    return f"Restart and record {count(step.count, 'more boot', 'more boots')}, to be sure."


_NEXT_SENTENCES: dict[Step, Callable[[NextStep], str]] = {
    Step.RECORD_OPENING: _record_opening,
    Step.DECIDE: lambda _step: "Decide which entries to switch off or start later.",
    Step.POST: _post,
    Step.RESTART: lambda _step: "Restart the PC, then record that boot.",
    Step.RECORD_MORE: _record_more,
    Step.STATE: lambda _step: "Make the statement for the owner, or write down a further change.",
}
