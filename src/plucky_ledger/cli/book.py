"""Commands that keep the book: pencil, undo, and the verdict."""

from typing import TYPE_CHECKING

import click

from plucky_ledger.cli.answers import answer_json
from plucky_ledger.cli.common import (
    job_argument,
    job_kept_in,
    job_or_none_argument,
    json_option,
    ledger_option,
    measure_option,
    opened,
)
from plucky_ledger.cli.output import Paper, tell
from plucky_ledger.core.job.changes import Change, ChangeKind
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.wording.language import say

if TYPE_CHECKING:
    from plucky_ledger.core.job.job import Job


@click.command()
@job_argument
@click.argument("what")
@click.option(
    "--kind",
    type=click.Choice([kind.value for kind in ChangeKind]),
    default="other",
    show_default=True,
    help="Kind of change.",
)
@click.option("--why", default="", help="The reason.")
@ledger_option
def pencil(job: str, what: str, kind: str, why: str, ledger: str | None) -> None:
    """Pencil a change of JOB's PC: WHAT is planned."""
    from plucky_ledger.usecases.changing import postings
    from plucky_ledger.usecases.jobs.jobs import find_job

    with opened(ledger) as book:
        postings.pencil(
            book, find_job(book, job), (Change(kind=ChangeKind(kind), what=what, why=why),)
        )


@click.command("rub-out")
@job_argument
@ledger_option
def rub_out(job: str, ledger: str | None) -> None:
    """Remove what is pencilled for JOB."""
    from plucky_ledger.usecases.changing import postings
    from plucky_ledger.usecases.jobs.jobs import find_job

    with opened(ledger) as book:
        postings.rub_out(book, find_job(book, job))


@click.command()
@job_or_none_argument
@ledger_option
def undo(job: str | None, ledger: str | None) -> None:
    """Undo the last step of JOB; without one, the last of the workshop, such as taking in."""
    from plucky_ledger.usecases.jobs import undo as steps
    from plucky_ledger.usecases.jobs.jobs import find_job
    from plucky_ledger.wording.steps import undone

    with opened(ledger) as book:
        tell(undone(steps.undo(book, find_job(book, job) if job else None)))


@click.command("redo")
@job_or_none_argument
@ledger_option
def redo(job: str | None, ledger: str | None) -> None:
    """Do the step of JOB again that was undone last."""
    from plucky_ledger.usecases.jobs import undo as steps
    from plucky_ledger.usecases.jobs.jobs import find_job
    from plucky_ledger.wording.steps import done_again

    with opened(ledger) as book:
        tell(done_again(steps.redo(book, find_job(book, job) if job else None)))


@click.command()
@job_argument
@measure_option
@ledger_option
@json_option
def compare(job: str, measure: str | None, ledger: str | None, as_json: bool) -> None:
    """Print the verdict on JOB (its label): every posting, then the whole."""
    from plucky_ledger.pages.book import book_page
    from plucky_ledger.pages.verdict import verdict_page
    from plucky_ledger.wording.book import balance_in_words, particulars

    chosen, kept_in = job_kept_in(job, measure, ledger)
    lines = range(1, len(chosen.rounds) + 1)
    if as_json:
        answer_json("compare", [verdict_page(chosen, kept_in, line) for line in lines])
        return
    paper = Paper()
    page = book_page(chosen, kept_in)
    for line in lines:
        heading = say("The whole job")
        if line < len(chosen.rounds):
            row = page.rows[line]
            assert row.posting is not None
            heading = particulars(row.posting, row.put_back)
        paper.write(f"\n{heading}", bold=True)
        _print_verdict(paper, chosen, kept_in, line)
    paper.write(f"\n{balance_in_words(page)}")


def _print_verdict(paper: Paper, job: "Job", measure: Measure, line: int) -> None:
    from plucky_ledger.pages.verdict import verdict_page
    from plucky_ledger.wording import verdict as words
    from plucky_ledger.wording.labels import label

    page = verdict_page(job, measure, line)
    said = words.answer(page)
    paper.write(f"{said.sentence} {said.stamp}")
    paper.write(words.basis(page), dim=True)
    paper.table(
        (say("measure"), say("shift (95 % interval)"), say("verdict")),
        [
            (
                label(row.measure),
                words.row_shift(row),
                words.stamp_in_words(row),
            )
            for row in page.rows
        ],
    )
    paper.write(
        words.only_moved(page.moved),
        words.as_expected(page),
        words.went_wrong(page),
        words.comparability_in_words(page),
        words.to_decide(page),
    )
