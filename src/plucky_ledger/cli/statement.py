"""Commands that write something to hand over: the statement, and the demo."""

from pathlib import Path

import click

from plucky_ledger.cli.common import (
    job_argument,
    ledger_option,
    measure_option,
    opened,
    told_plainly,
)
from plucky_ledger.cli.output import tell
from plucky_ledger.core.measures import Measure
from plucky_ledger.core.trouble import Refused, TroubleCode
from plucky_ledger.wording.language import say


@click.command()
@job_argument
@click.option("--out", type=click.Path(path_type=Path), default=Path("statement.pdf"),
              show_default=True, help="File to write; .html or .pdf.")  # fmt: skip
@measure_option
@ledger_option
def statement(job: str, out: Path, measure: str | None, ledger: str | None) -> None:
    """Write the statement on JOB (its label)."""
    from plucky_ledger.pages.shelf import best_measure
    from plucky_ledger.pages.statement import statement_page
    from plucky_ledger.usecases.clock import now
    from plucky_ledger.usecases.jobs import find_job, read_job
    from plucky_ledger.usecases.statements import save_statement
    from plucky_ledger.wording.statement import statement_in_words

    with opened(ledger) as book:
        reading = read_job(book, find_job(book, job))
        page = statement_page(reading, Measure(measure) if measure else best_measure(reading))
        save_statement(statement_in_words(page, now()), out)
    tell(say("The statement is in {path}.", path=str(out)))


@click.command("demo-ledger")
@click.argument("ledger", type=click.Path(path_type=Path))
def demo_ledger(ledger: Path) -> None:
    """Write the demo job into the new file LEDGER."""
    from rich.progress import Progress

    from plucky_ledger.usecases.demo import write_demo

    with told_plainly(), Progress() as progress:
        if ledger.exists():
            raise Refused(TroubleCode.FILE_EXISTS, path=str(ledger))
        task = progress.add_task(say("Recording the stand-in PC"), total=None)

        def report(done: int, total: int) -> bool:
            progress.update(task, completed=done, total=total)
            return True

        write_demo(ledger, report)
