"""The command that tells why a PC is still slow."""

import click

from plucky_ledger.cli.common import job_argument, json_option, ledger_option, opened
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
