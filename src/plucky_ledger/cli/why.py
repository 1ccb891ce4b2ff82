"""Commands that tell why a PC is still slow, since when, and what takes the room."""

from typing import TYPE_CHECKING

import click

from plucky_ledger.cli.answers import answer_json
from plucky_ledger.cli.common import (
    job_argument,
    job_kept_in,
    json_option,
    ledger_option,
    measure_option,
    opened,
)
from plucky_ledger.cli.output import Paper, passing_line
from plucky_ledger.wording.language import say

if TYPE_CHECKING:
    from plucky_ledger.core.trend.trend import Trend
    from plucky_ledger.pages.why import WhyPage


@click.command()
@job_argument
@ledger_option
@click.option(
    "--ask-drives",
    is_flag=True,
    help="Read drive health once as administrator, and keep it with the job.",
)
@json_option
def why(job: str, ledger: str | None, ask_drives: bool, as_json: bool) -> None:
    """Print why JOB's PC is still slow, and what would help."""
    from plucky_ledger.pages.why import why_page
    from plucky_ledger.usecases.jobs.jobs import find_job
    from plucky_ledger.usecases.reading.advice import inspect, keep_inspected
    from plucky_ledger.usecases.reading.advice import why as hold_against
    from plucky_ledger.usecases.reading.analyses import Analyses
    from plucky_ledger.usecases.reading.costs import CostsKept

    with opened(ledger) as book:
        analyses, number = Analyses(), find_job(book, job)
        if ask_drives:
            keep_inspected(book, number, inspect(book, number))
        page = why_page(hold_against(book, number, analyses, CostsKept(analyses)))
    if as_json:
        answer_json("why", page)
    else:
        _print(page)


def _print(page: "WhyPage") -> None:
    from plucky_ledger.wording.advice import advice_in_words, in_short, rests_on, takes, wins
    from plucky_ledger.wording.condition import facts_in_words

    paper = Paper()
    paper.write(in_short(page), rests_on(page))
    for finding in page.findings:
        words = advice_in_words(finding)
        paper.write(
            "",
            f"{words.title} ({takes(finding)})",
            words.seen,
            wins(finding),
            words.to_do,
            words.against,
        )
    paper.write("", *(f"{heading}: {told}" for heading, told in facts_in_words(page)))


@click.command()
@job_argument
@measure_option
@ledger_option
@json_option
def trend(job: str, measure: str | None, ledger: str | None, as_json: bool) -> None:
    """Print how JOB's PC went over months: the steps, and what came with each."""
    from plucky_ledger.usecases.reading.analyses import Analyses
    from plucky_ledger.usecases.reading.trend import trend as over_months

    chosen, kept_in = job_kept_in(job, measure, ledger)
    with opened(ledger) as book:
        found = over_months(book, chosen.number, kept_in, Analyses())
    tell_trend(found, as_json=as_json)


def tell_trend(found: "Trend", *, as_json: bool) -> None:
    """The steps in a PC's boots, the newest first, and what came with each."""
    if as_json:
        answer_json("trend", found)
        return
    from plucky_ledger.wording.trend import (
        beside_in_words,
        causes,
        levels_in_words,
        step_in_words,
        trend_basis,
        trend_in_short,
    )

    paper = Paper()
    beside = (f"{beside_in_words(of, points)}." for of, points in found.beside.items())
    paper.write(trend_in_short(found), trend_basis(found), *beside)
    for step in reversed(found.steps):
        line = f"{step_in_words(step, found.measure)} {levels_in_words(step, found.measure)}"
        paper.write("", line, causes(step))


@click.command()
@job_argument
@ledger_option
@click.option(
    "--administrator", "as_administrator", is_flag=True, help="Look where not everybody may look."
)
@json_option
def room(job: str, ledger: str | None, as_administrator: bool, as_json: bool) -> None:
    """Print what uses disk space on JOB's PC; nothing is deleted."""
    from plucky_ledger.usecases.jobs.jobs import find_job
    from plucky_ledger.usecases.reading.room import survey
    from plucky_ledger.wording.room import heap_in_words, looking, room_basis, room_in_short

    with opened(ledger) as book, passing_line() as show:

        def progress(files: int, folder: str) -> bool:
            show(looking(files, folder))
            return True

        found = survey(book, find_job(book, job), progress, as_administrator)
    if as_json:
        answer_json("room", found)
        return
    paper = Paper()
    paper.write(room_in_short(found), room_basis(found))
    rows = [
        (w.size, (w.name, w.about), f"{w.clearing} {w.how}".strip())
        for w in map(heap_in_words, found.heaps)
    ]
    paper.table((say("size"), say("item"), say("clearing it")), rows)
