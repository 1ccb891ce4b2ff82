"""The statement: what the owner of the PC gets to read."""

from plucky_ledger.core.book.book import Line, keep_book
from plucky_ledger.core.book.job import Change, Job, PostingState
from plucky_ledger.core.measures import Measure
from plucky_ledger.exchange.statement import DoneLine, FigureLine, Statement
from plucky_ledger.pages.book import subtitle
from plucky_ledger.pages.verdict import VerdictRow, verdict_page
from plucky_ledger.wording.figures import count, day, now, saved_or_lost, shown, with_unit

REMARKS = (
    "Every step was measured over several starts of the PC. The balance is their typical value; "
    "the time a person takes to sign in is not counted.",
    "Saved or lost means that the difference is larger than the starts differ among themselves "
    "and large enough to notice. Even means that nothing noticeable changed. Unproven means that "
    "the starts differ too much to say.",
)


def statement_of(job: Job, measure: Measure) -> Statement:
    """The statement of a job whose book is kept in ``measure``."""
    book = keep_book(job, measure)
    page = verdict_page(job, measure, len(book.lines))
    return Statement(
        title=shown(job.card.title),
        subtitle=subtitle(job),
        complaint=shown(job.card.complaint),
        made_on=f"{now().astimezone():%-d %B %Y}",
        answer=f"{page.answer} {page.stamp}".strip(),
        measure_title=measure.terms.title,
        unit=measure.terms.unit_word,
        figures=tuple(_figure(row) for row in page.rows),
        done=tuple(_done(line, measure) for line in book.lines if _is_done(line)),
        remarks=(*_fairness(page.fair), *REMARKS),
    )


def _fairness(fair: str) -> tuple[str, ...]:
    return (f"Conditions: {fair}",) if fair else ()


def _is_done(line: Line) -> bool:
    return line.state is not PostingState.PENCILLED


def _figure(row: VerdictRow) -> FigureLine:
    def figure(value: float | None) -> str:
        return "" if value is None else with_unit(value, row.measure)

    lone = not row.before
    return FigureLine(
        title=row.title,
        explanation=row.explanation,
        before=figure(row.typical_after if lone else row.typical_before),
        after="" if lone else figure(row.typical_after),
        shift="" if lone else row.shift,
        verdict=str(row.verdict) if row.verdict else "",
    )


def _done(line: Line, measure: Measure) -> DoneLine:
    posting = line.posting
    counted = sum(boot.counts for boot in line.boots)
    result = f"measured over {count(counted, 'start')}" if counted else "no start recorded yet"
    if line.shift is not None:
        result = f"{saved_or_lost(line.shift)}, {count(counted, 'start')}"
    if line.state is PostingState.STRUCK_OUT:
        result = f"{result}; put back"
    when = posting.posted_at if posting else line.boots[0].started_at if line.boots else None
    changes = posting.changes if posting else ()
    return DoneLine(
        day=day(when) if when else "",
        particulars=shown(posting.particulars) if posting else "As the PC came",
        details=tuple(shown(_detail(change)) for change in changes),
        result=result,
        struck_out=line.state is PostingState.STRUCK_OUT,
        balance=line.balance.value if line.balance else None,
        balance_text=with_unit(line.balance.value, measure) if line.balance else "",
    )


def _detail(change: Change) -> str:
    return f"{change.what}: {change.why}" if change.why else change.what
