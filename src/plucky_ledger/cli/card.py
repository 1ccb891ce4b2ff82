"""The card to time a PC by hand."""

from pathlib import Path

import click

from plucky_ledger.cli.common import job_argument, ledger_option, opened
from plucky_ledger.cli.output import tell
from plucky_ledger.wording.language import say


@click.command()
@job_argument
@click.option(
    "--out",
    type=click.Path(path_type=Path),
    default=Path("card.pdf"),
    show_default=True,
    help="File to write; .html or .pdf.",
)
@ledger_option
def card(job: str, out: Path, ledger: str | None) -> None:
    """Write a card to print, for timing the PC of JOB by hand."""
    from plucky_ledger.usecases.jobs.jobs import find_job, read_job
    from plucky_ledger.usecases.recording.cards import save_card
    from plucky_ledger.wording.card import card_in_words

    with opened(ledger) as book:
        save_card(card_in_words(read_job(book, find_job(book, job)).card), out)
    tell(say("The card is in {path}.", path=str(out)))
