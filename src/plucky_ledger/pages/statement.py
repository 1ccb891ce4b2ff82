"""The statement: what the owner of the PC gets to read, as values."""

from dataclasses import dataclass

from plucky_ledger.core.job.advised import Advised
from plucky_ledger.core.job.job import Job
from plucky_ledger.core.job.postings import PostingState
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.pages.book import BookPage, book_page
from plucky_ledger.pages.folds import ShownLine, shown_lines
from plucky_ledger.pages.verdict import VerdictPage, verdict_page


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


def statement_page(job: Job, measure: Measure) -> StatementPage:
    """The statement of a job whose book is kept in ``measure``."""
    book = book_page(job, measure)
    done = shown_lines([row for row in book.rows if row.state is not PostingState.PENCILLED])
    return StatementPage(book, verdict_page(job, measure, len(book.rows)), done, job.advised)
