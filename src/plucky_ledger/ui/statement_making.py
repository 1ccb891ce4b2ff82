"""Statements made off the window's thread: on one job, and on all PCs of its owner."""

from collections.abc import Iterator

from plucky_ledger.core.job.job import Job
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.pages.entries import entries_page
from plucky_ledger.pages.shelf import best_measure
from plucky_ledger.pages.statement import first_measured, statement_page
from plucky_ledger.ui.lenses.statement_starts import two_starts
from plucky_ledger.usecases.changing.decisions import decisions_in
from plucky_ledger.usecases.jobs.clock import now
from plucky_ledger.usecases.jobs.jobs import jobs_of_owner, read_job
from plucky_ledger.usecases.jobs.workshop import Workshop
from plucky_ledger.usecases.reading.statements import Statement, StatementStyle
from plucky_ledger.wording.language import speaking
from plucky_ledger.wording.statement import statement_in_words


def statement_made(shop: Workshop, job: Job, measure: Measure, style: StatementStyle) -> Statement:
    """The statement on a job whose book is kept in ``measure``; what entries cost takes a
    moment.
    """
    entries = entries_page(shop.ledger, job.number, first_measured(job), shop.costs, shop.memory)
    page = statement_page(job, measure, decisions_in(shop.ledger, job.number), entries)
    with speaking(style.language):
        wanted = style.parts.details and style.parts.starts
        starts = two_starts(shop, job, measure) if wanted else ()
        return statement_in_words(page, now(), style.letterhead, style.parts, starts)


def statement_at_once(
    shop: Workshop, job: Job, measure: Measure, style: StatementStyle
) -> Statement:
    """The same without what takes a moment."""
    page = statement_page(job, measure, decisions_in(shop.ledger, job.number))
    with speaking(style.language):
        return statement_in_words(page, now(), style.letterhead, style.parts)


def statements_of_owner(
    shop: Workshop, owner: str, style: StatementStyle
) -> Iterator[tuple[int, Statement]]:
    """One after the other, on every PC of an owner, and how many come after it."""
    numbers = jobs_of_owner(shop.ledger, owner)
    for at, number in enumerate(numbers, 1):
        job = read_job(shop.ledger, number)
        yield len(numbers) - at, statement_made(shop, job, best_measure(job), style)
