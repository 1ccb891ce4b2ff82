"""The job shelf: every job as a ledger spine."""

from collections.abc import Mapping
from dataclasses import dataclass

from plucky_ledger.core.book.book import Book, keep_book
from plucky_ledger.core.book.job import Job, PostingState, state_of
from plucky_ledger.core.book.spread import student_t
from plucky_ledger.core.entries.decisions import Decision
from plucky_ledger.core.measures import Measure
from plucky_ledger.store.entries import decisions
from plucky_ledger.store.jobs import all_jobs
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.wording.figures import day, shown, with_unit


@dataclass(frozen=True)
class Spine:
    """One job on the shelf."""

    job: int
    label: str
    title: str
    owner: str
    state: str
    """How far the job is, in a few words."""
    due: bool
    """A restart is due: to be told apart at a glance."""
    saved: str
    """What was saved in all, in words; empty when nothing was measured."""
    staircase: tuple[float, ...]
    """The balances, one after the other."""

    def matches(self, wanted: str) -> bool:
        """Whether a search text is in what the spine says."""
        said = f"{self.label} {self.title} {self.owner} {self.state}".casefold()
        return all(word in said for word in wanted.casefold().split())


def read_shelf(ledger: Ledger) -> tuple[tuple[Job, ...], dict[int, int]]:
    """All jobs, and how many of each one's entries are still to be looked up.

    Also gets the numerics ready, which is too slow to be done while a view waits.
    """
    student_t(1)
    return all_jobs(ledger), open_look_ups(ledger)


def open_look_ups(ledger: Ledger) -> dict[int, int]:
    """How many entries of each job are to be looked up and nothing was found out about yet."""
    return {
        job: sum(one.decision is Decision.LOOK_UP and not one.finding for one in decided.values())
        for job, decided in decisions(ledger).items()
    }


def shelf(jobs: tuple[Job, ...], look_ups: Mapping[int, int]) -> tuple[Spine, ...]:
    """All jobs; those with a restart due first. ``look_ups`` counts what is to be looked up."""
    spines = [_spine(job, look_ups.get(job.number, 0)) for job in jobs]
    return tuple(sorted(spines, key=lambda spine: not spine.due))


def best_measure(job: Job) -> Measure:
    """The measure a job's book opens in: the first that was measured, times before the rest."""
    order = (Measure.SETTLED, Measure.READY, Measure.SYSTEM_UP, *Measure)
    return next((measure for measure in order if is_measured(job, measure)), Measure.SETTLED)


def is_measured(job: Job, measure: Measure) -> bool:
    """Whether any boot of the job has this measure."""
    return any(measure in boot.readings for boots in job.rounds for boot in boots)


def _spine(job: Job, look_ups: int) -> Spine:
    book = keep_book(job, best_measure(job))
    posted = job.last_posted
    due = posted is not None and state_of(job, posted) is PostingState.POSTED
    return Spine(
        job=job.number,
        label=job.card.label,
        title=shown(job.card.title),
        owner=shown(job.card.owner),
        state=_state(job, due) + (f" · {look_ups} to look up" if look_ups else ""),
        due=due,
        saved=_saved(book),
        staircase=tuple(line.balance.value for line in book.lines if line.balance),
    )


def _state(job: Job, due: bool) -> str:
    if due:
        return "restart due"
    if not job.opening_boots:
        return f"taken in {day(job.taken_in_at)} · no boot yet"
    if job.pencilled:
        return "changes pencilled"
    return "in the book" if job.postings else "opening balance taken"


def _saved(book: Book) -> str:
    if book.opening is None or book.closing is None or len(book.lines) < 2:
        return ""
    won = book.opening.value - book.closing.value
    amount = with_unit(abs(won), book.measure)
    return f"saved {amount}" if won >= 0 else f"lost {amount}"
