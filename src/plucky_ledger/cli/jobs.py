"""Commands about jobs: the shelf, taking a PC in, one job's book."""

from typing import TYPE_CHECKING

import click

from plucky_ledger.cli.answers import answer_json
from plucky_ledger.cli.common import (
    job_argument,
    job_kept_in,
    json_option,
    ledger_option,
    measure_option,
    new_option,
    opened,
)
from plucky_ledger.cli.output import Paper, tell
from plucky_ledger.core.job.job import Card
from plucky_ledger.wording.language import say

if TYPE_CHECKING:
    from plucky_ledger.pages.book import BookPage


@click.command("jobs")
@click.option(
    "--by",
    "order",
    default="next",
    show_default=True,
    type=click.Choice(["next", "last_visit", "label", "pc", "owner", "model", "saved"]),
    help="Their order.",
)
@click.option(
    "--show",
    "wanted",
    default="all",
    show_default=True,
    type=click.Choice(["all", "due", "slower", "look_up", "part", "quiet"]),
    help="Which of them.",
)
@ledger_option
@json_option
def list_jobs(order: str, wanted: str, ledger: str | None, as_json: bool) -> None:
    """List the jobs of a ledger."""
    from plucky_ledger.pages.shelf import ShelfFilter, ShelfOrder, is_shown, shelf
    from plucky_ledger.usecases.jobs.clock import now
    from plucky_ledger.usecases.jobs.shelf import read_shelf
    from plucky_ledger.wording.figures import day
    from plucky_ledger.wording.shelf import owner, saved, state, title

    with opened(ledger) as book:
        spines = tuple(
            spine
            for spine in shelf(read_shelf(book), ShelfOrder(order))
            if is_shown(spine, ShelfFilter(wanted), now())
        )
    if as_json:
        answer_json("jobs", spines)
        return
    rows = [
        (
            spine.card.label,
            title(spine),
            owner(spine),
            day(spine.last_visit),
            state(spine),
            saved(spine),
        )
        for spine in spines
    ]
    heads = (say("label"), say("PC"), say("owner"), say("last visit"), say("state"), say("saved"))
    for line in _columns((heads, *rows)):
        tell(line)


def _columns(rows: tuple[tuple[str, ...], ...]) -> list[str]:
    """Rows of plain text under each other."""
    widths = [max(len(cell) for cell in column) for column in zip(*rows, strict=True)]
    return [
        "  ".join(cell.ljust(width) for cell, width in zip(row, widths, strict=True)).rstrip()
        for row in rows
    ]


@click.command("take-in")
@click.argument("title")
@click.option("--label", default="", help="The workshop's number; by default the next free one.")
@click.option("--owner", default="", help="Whose it is.")
@click.option("--complaint", default="", help="What is complained of.")
@click.option("--this-pc", is_flag=True, help="It is this PC: read what it has.")
@new_option
@ledger_option
@json_option
def take_in_pc(
    title: str,
    label: str,
    owner: str,
    complaint: str,
    this_pc: bool,
    new: bool,
    ledger: str | None,
    as_json: bool,
) -> None:
    """Take in the PC called TITLE."""
    from plucky_ledger.core.pc.facts import Facts
    from plucky_ledger.core.pc.which import THIS_OR_ANOTHER
    from plucky_ledger.usecases.jobs.jobs import read_job, take_in

    with opened(ledger, make=True, new=new) as book:
        which, facts = THIS_OR_ANOTHER, Facts()
        if this_pc:
            from plucky_ledger.usecases.recording.facts import read_this_pc

            which, facts = read_this_pc()
        number = take_in(book, Card(label, title, owner, complaint), facts, which)
        job = read_job(book, number)
    if as_json:
        answer_json("take-in", {"label": job.card.label, "title": job.card.title})
    else:
        tell(job.card.label)


@click.command("visit")
@job_argument
@click.option("--complaint", default="", help="What is complained of this time.")
@ledger_option
def take_in_again(job: str, complaint: str, ledger: str | None) -> None:
    """Take the PC of JOB in again: a new opening in the same book, against the last closing."""
    from plucky_ledger.usecases.jobs.jobs import find_job
    from plucky_ledger.usecases.jobs.visits import begin_visit

    with opened(ledger) as book:
        begin_visit(book, find_job(book, job), complaint)


@click.command("noticed")
@job_argument
@click.option("--write-down", is_flag=True, help="Write it into the book.")
@ledger_option
def noticed_outside(job: str, write_down: bool, ledger: str | None) -> None:
    """Print what was changed on the PC of JOB elsewhere and is not in its book."""
    from plucky_ledger.core.job.noticed import outside_of
    from plucky_ledger.usecases.jobs.jobs import find_job, read_job
    from plucky_ledger.usecases.jobs.visits import write_down_outside
    from plucky_ledger.wording.figures import day_and_time
    from plucky_ledger.wording.reasons import reason_in_words

    with opened(ledger) as book:
        number = find_job(book, job)
        found = outside_of(read_job(book, number))
        if write_down:
            write_down_outside(book, number, reason_in_words)
    if found is None:
        tell(say("Every change found on the PC is in the book."))
        return
    for reason in found.changed:
        tell(f"{day_and_time(found.boot.started_at)}  {reason_in_words(reason)}")


@click.command("book")
@job_argument
@measure_option
@ledger_option
@json_option
def show_job(job: str, measure: str | None, ledger: str | None, as_json: bool) -> None:
    """Print the book of JOB (its label): every line with its balance, and the next step."""
    from plucky_ledger.pages.book import book_page

    page = book_page(*job_kept_in(job, measure, ledger))
    if as_json:
        answer_json("book", page)
    else:
        print_book(page)


def print_book(page: "BookPage") -> None:
    """A book with its balance, and the next step."""
    from plucky_ledger.pages.folds import shown_lines
    from plucky_ledger.wording.book import (
        balance_in_words,
        folded_in_words,
        next_sentence,
        row_in_words,
    )
    from plucky_ledger.wording.facts import subtitle

    paper = Paper()
    paper.write(subtitle(page.card, page.facts), dim=True)
    rows = [
        row_in_words(line.row) if line.fold is None else folded_in_words(line.row, line.fold)
        for line in shown_lines(page.rows)
    ]
    paper.table(
        (say("particulars"), say("saved"), say("lost"), say("balance")),
        [((row.particulars, row.remark), row.saved, row.lost, row.balance) for row in rows],
    )
    paper.write(balance_in_words(page), next_sentence(page))
