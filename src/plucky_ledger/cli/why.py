"""Commands that tell why a PC is still slow, and since when."""

import click

from plucky_ledger.cli.common import (
    job_argument,
    job_kept_in,
    json_option,
    ledger_option,
    measure_option,
    opened,
)
from plucky_ledger.cli.output import Paper, answer_json


@click.command()
@job_argument
@ledger_option
@json_option
def why(job: str, ledger: str | None, as_json: bool) -> None:
    """Print why JOB's PC is still slow, and what would help."""
    from plucky_ledger.pages.why import why_page
    from plucky_ledger.usecases.advice import why as hold_against
    from plucky_ledger.usecases.analyses import Analyses
    from plucky_ledger.usecases.costs import CostsKept
    from plucky_ledger.usecases.jobs import find_job

    with opened(ledger) as book:
        analyses = Analyses()
        page = why_page(hold_against(book, find_job(book, job), analyses, CostsKept(analyses)))
    if as_json:
        answer_json(page)
        return
    from plucky_ledger.wording.advice import advice_in_words, in_short, rests_on, takes, wins

    paper = Paper()
    paper.write(in_short(page), rests_on(page))
    for finding in page.findings:
        words = advice_in_words(finding)
        paper.write(
            "", f"{words.title} ({takes(finding)})", words.seen, wins(finding), words.to_do,
            words.against,
        )  # fmt: skip


@click.command()
@job_argument
@measure_option
@ledger_option
@json_option
def trend(job: str, measure: str | None, ledger: str | None, as_json: bool) -> None:
    """Print how JOB's PC went over months: the steps, and what came with each."""
    from plucky_ledger.usecases.analyses import Analyses
    from plucky_ledger.usecases.trend import trend as over_months

    chosen, kept_in = job_kept_in(job, measure, ledger)
    with opened(ledger) as book:
        found = over_months(book, chosen.number, kept_in, Analyses())
    if as_json:
        answer_json(found)
        return
    from plucky_ledger.wording.trend import (
        causes,
        levels_in_words,
        step_in_words,
        trend_basis,
        trend_in_short,
    )

    paper = Paper()
    paper.write(trend_in_short(found), trend_basis(found))
    for step in reversed(found.steps):
        told = f"{step_in_words(step, found.measure)} {levels_in_words(step, found.measure)}"
        paper.write("", told, causes(step))
