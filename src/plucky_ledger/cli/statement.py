"""Commands that write something to hand over: the statement, and the demo."""

import sys
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

import click

from plucky_ledger.cli.common import (
    demo_path,
    job_or_none_argument,
    ledger_address,
    ledger_option,
    measure_option,
    opened,
    told_plainly,
    with_secret,
)
from plucky_ledger.cli.entries import entries_as_far_as_known
from plucky_ledger.cli.output import passing_line, tell
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.wording.language import languages, say, speaking

if TYPE_CHECKING:
    from plucky_ledger.usecases.jobs.opening import Ledger


@click.command()
@job_or_none_argument
@click.option("--owner", help="In place of a JOB: of all PCs of this owner, headed by a summary.")
@click.option(
    "--out",
    type=click.Path(path_type=Path),
    default=Path("statement.pdf"),
    show_default=True,
    help="File to write; .html or .pdf.",
)
@click.option("--language", metavar="CODE", help="Its language, such as de; else as preferred.")
@click.option(
    "--leave-out",
    "leaves_out",
    multiple=True,
    type=click.Choice(["details", "entries", "boots", "signature"]),
    help="Without the pages after the owner's, one of their tables, or a place to sign.",
)
@measure_option
@ledger_option
def statement(
    job: str | None,
    owner: str | None,
    out: Path,
    language: str | None,
    leaves_out: tuple[str, ...],
    measure: str | None,
    ledger: str | None,
) -> None:
    """Write the statement on JOB (its label)."""
    if language is not None and language not in languages():
        raise click.UsageError(
            say("Languages there are: {languages}.", languages=", ".join(languages()))
        )
    if bool(job) is bool(owner):
        raise click.UsageError(say("Name a JOB, or an owner after --owner."))
    from plucky_ledger.usecases.jobs.jobs import find_job, jobs_of_owner

    kept_in = Measure(measure) if measure else None
    with opened(ledger) as book:
        numbers = [find_job(book, job)] if job else jobs_of_owner(book, str(owner))
        _write_statement(book, numbers, kept_in, out, language, leaves_out or None)


@click.command("demo-ledger")
@click.argument("ledger")
def demo_ledger(ledger: str) -> None:
    """Write the demo job into the new file LEDGER, or into the empty ledger of a server."""
    from plucky_ledger.usecases.jobs.demo import write_demo, write_demo_on_server

    with told_plainly(), passing_line() as show:
        address = ledger_address(ledger)
        if address.file is None:
            with_secret(address, lambda: write_demo_on_server(address, _shown_by(show)))
        elif address.file.exists():
            raise Refused(TroubleCode.FILE_EXISTS, path=ledger)
        else:
            write_demo(address.file, _shown_by(show))


@click.command()
@click.option("--play", is_flag=True, help="Play the whole job without a window; print its book.")
@click.option(
    "--out", type=click.Path(path_type=Path), help="With --play: write the statement there, too."
)
@click.option(
    "--ledger",
    help="With --play: keep the job in this new file, or in this ledger of a server.",
)
@click.option("--reset", is_flag=True, help="Begin the demo anew, as it was at first.")
@click.pass_context
def demo(
    context: click.Context, play: bool, out: Path | None, ledger: str | None, reset: bool
) -> None:
    """Open the demo job in the window; or play a whole job from taking in to the statement."""
    if play:
        _play(out, ledger)
        return
    if out is not None or ledger is not None:
        raise click.UsageError(say("--out and --ledger go with --play."))
    with told_plainly():
        if reset:
            _begin_anew()
        sys.exit(context.obj(ledger_address(str(demo_path())), True))


def _begin_anew() -> None:
    from plucky_ledger.usecases.jobs.demo import forget_demo

    kept = forget_demo(demo_path())
    if kept is not None:
        tell(say("A real PC was taken into the demo: it is kept in {path}.", path=str(kept)))


def _play(out: Path | None, ledger: str | None) -> None:
    import tempfile

    from plucky_ledger.cli.jobs import print_book
    from plucky_ledger.pages.book import book_page
    from plucky_ledger.pages.shelf import best_measure
    from plucky_ledger.usecases.jobs.jobs import read_job
    from plucky_ledger.usecases.jobs.opening import open_ledger
    from plucky_ledger.usecases.jobs.play import Play

    with told_plainly(), tempfile.TemporaryDirectory() as folder:
        address = ledger_address(ledger or str(Path(folder) / "play.ledger"))
        if address.file is not None and address.file.exists():
            raise Refused(TroubleCode.FILE_EXISTS, path=address.text)
        opened_there = with_secret(address, lambda: open_ledger(address))
        with opened_there as book, passing_line() as show:
            job_played = Play(book, _shown_by(show))
            job_played.through()
            played = read_job(book, job_played.number)
            print_book(book_page(played, best_measure(played)))
            if out is not None:
                _write_statement(book, [played.number], None, out)


def _shown_by(show: Callable[[str], None]) -> Callable[[int, int], bool]:
    """A report on recording the stand-in PC."""

    def report(done: int, total: int) -> bool:
        show(f"{say('Recording the stand-in PC')} {done}/{total}")
        return True

    return report


def _write_statement(
    book: "Ledger",
    numbers: list[int],
    measure: Measure | None,
    out: Path,
    language: str | None = None,
    leaves_out: tuple[str, ...] | None = None,
) -> None:
    from plucky_ledger.pages.shelf import best_measure
    from plucky_ledger.pages.statement import first_measured, statement_page
    from plucky_ledger.usecases.jobs.clock import now
    from plucky_ledger.usecases.reading.entries import job_with_decisions
    from plucky_ledger.usecases.reading.statements import (
        preferred_style,
        save_statement,
        save_statements,
    )
    from plucky_ledger.wording.statement import pcs_of, statement_in_words

    pages = []
    for number in numbers:
        job, decided = job_with_decisions(book, number)
        entries = entries_as_far_as_known(book, number, first_measured(job))
        pages.append(statement_page(job, measure or best_measure(job), decided, entries))
    style = preferred_style(language, leaves_out)
    with speaking(style.language):
        made = [statement_in_words(one, now(), style.letterhead, style.parts) for one in pages]
        if len(made) == 1:
            save_statement(made[0], out)
        else:
            save_statements(made, pcs_of(pages[0].book.card.owner), out)
    tell(say("The statement is in {path}.", path=str(out)))
