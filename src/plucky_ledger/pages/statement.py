"""The statement: what the owner of the PC gets to read, as values."""

from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType

from plucky_ledger.core.boots.boot import Boot, counted
from plucky_ledger.core.entries.decisions import Decided
from plucky_ledger.core.job.advised import Advised
from plucky_ledger.core.job.changes import Change
from plucky_ledger.core.job.job import Job, put_back_since
from plucky_ledger.core.job.postings import PostingState
from plucky_ledger.core.pc.condition import Inspected
from plucky_ledger.core.values.measures import Measure, Reading
from plucky_ledger.pages.book import BookPage, book_page
from plucky_ledger.pages.entries import EntriesPage, EntryRow
from plucky_ledger.pages.folds import ShownLine, shown_lines
from plucky_ledger.pages.owners_page import OwnersPage, owners_page
from plucky_ledger.pages.verdict import VerdictPage, verdict_page

NOTHING_DECIDED: Mapping[str, Decided] = MappingProxyType({})


@dataclass(frozen=True)
class RecordedBoot:
    """One boot of the job."""

    line: int
    """Line of the book, 0 for the opening round."""
    boot: Boot
    reading: Reading | None
    """In the book's measure."""


@dataclass(frozen=True)
class StatementPage:
    """Everything the statement tells."""

    book: BookPage
    verdict: VerdictPage
    """The whole job: opening against closing."""
    done: tuple[ShownLine, ...]
    """What was done, the opening round first; what is only pencilled is not."""
    advised: tuple[Advised, ...]
    """What the owner is advised to do."""
    owner: OwnersPage
    entries: tuple[EntryRow, ...]
    """Every entry; parts of the system only where something was decided about them."""
    boots: tuple[RecordedBoot, ...]
    put_back: tuple[Change, ...]
    """What was tried and undone again."""
    inspected: Inspected | None
    """What the drives told of themselves; None where nobody asked them."""


def statement_page(
    job: Job,
    measure: Measure,
    decided: Mapping[str, Decided] = NOTHING_DECIDED,
    entries: EntriesPage | None = None,
) -> StatementPage:
    """The statement of a job whose book is kept in ``measure``.

    ``decided`` is by entry id; ``entries`` are those of ``first_measured``, where they are known.
    """
    book = book_page(job, measure)
    done = shown_lines([row for row in book.rows if row.state is not PostingState.PENCILLED])
    verdict = verdict_page(job, measure, len(book.rows))
    return StatementPage(
        book=book,
        verdict=verdict,
        done=done,
        advised=job.advised,
        owner=owners_page(job, measure, decided),
        entries=_entries(entries) if entries is not None else (),
        boots=tuple(
            RecordedBoot(line, boot, boot.readings.get(measure))
            for line, boots in enumerate(job.rounds)
            for boot in boots
        ),
        put_back=tuple(
            change
            for posting in job.postings
            if posting.posted_at is not None
            for change in put_back_since(job, posting)
        ),
        inspected=job.inspected,
    )


def first_measured(job: Job) -> tuple[Boot, ...]:
    """Boots of the first round that was measured: what entries cost before anything was changed."""
    return next((boots for boots in map(counted, job.rounds) if boots), ())


def _entries(page: EntriesPage) -> tuple[EntryRow, ...]:
    return (*page.rows, *(row for row in page.system_rows if row.decided is not None))
