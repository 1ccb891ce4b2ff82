"""A job as one file: written here, and what `import` does with one."""

import sys
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING

import click

from plucky_ledger.cli.common import job_argument, ledger_option, opened
from plucky_ledger.cli.output import Paper, tell
from plucky_ledger.core.values.endings import JOB_FILE
from plucky_ledger.wording.language import say

if TYPE_CHECKING:
    from plucky_ledger.usecases.jobs.job_files import Incoming
    from plucky_ledger.usecases.jobs.opening import Ledger

HERE, FILE = "here", "file"
keep_option = click.option(
    "--keep",
    type=click.Choice([HERE, FILE]),
    help="Of a job file: which side stays where both changed the same.",
)


@click.command("export")
@job_argument
@click.option(
    "--out",
    type=click.Path(path_type=Path),
    help="File to write; by default job-LABEL.plucky-job.",
)
@ledger_option
def export(job: str, out: Path | None, ledger: str | None) -> None:
    """Write JOB (its label) into one file, whole, for another bench or for keeping."""
    from plucky_ledger.usecases.jobs.job_files import export_job
    from plucky_ledger.usecases.jobs.jobs import find_job
    from plucky_ledger.wording.job_files import exported

    path = out or Path(f"job-{job}{JOB_FILE}")
    with opened(ledger) as book:
        export_job(book, find_job(book, job), path)
    tell(exported(str(path)))


def take_in(book: "Ledger", path: Path, keep: str | None) -> str:
    """Take a job file in; returns what to say. Ends where somebody has to choose first."""
    from plucky_ledger.usecases.jobs.job_files import Side, look_into, take_in_file
    from plucky_ledger.usecases.jobs.jobs import read_job
    from plucky_ledger.wording.job_files import choose_first, taken_in

    incoming = look_into(book, path)
    if incoming.conflicts and keep is None:
        _show(incoming)
        tell(choose_first(len(incoming.conflicts)), err=True)
        sys.exit(1)
    side = Side.THEIRS if keep == FILE else Side.OURS
    done = take_in_file(book, incoming, {one.identity: side for one in incoming.conflicts})
    card = read_job(book, done.job).card
    return taken_in(card.title, card.label, done.brought)


def _show(incoming: "Incoming") -> None:
    from plucky_ledger.pages.job_file import difference
    from plucky_ledger.wording.job_files import difference_in_words

    def rows() -> Iterator[tuple[str, str, str]]:
        for conflict in incoming.conflicts:
            words = difference_in_words(difference(conflict))
            yield words.what, words.ours, words.theirs

    Paper().table((say("what"), say("here"), say("in the file")), rows())
