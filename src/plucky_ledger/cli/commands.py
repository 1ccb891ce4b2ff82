"""The same use cases without a screen."""

import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import NoReturn

import click
from platformdirs import user_data_path
from rich.console import Console
from rich.progress import Progress
from rich.table import Table

from plucky_ledger import __version__
from plucky_ledger.capture.arming import Level
from plucky_ledger.core.book.job import Card, Job
from plucky_ledger.core.boots.boot import Boot
from plucky_ledger.core.entries.decisions import Decision
from plucky_ledger.core.measures import Measure
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.exchange.statement import save_html, save_pdf
from plucky_ledger.linux.files import NotSaved
from plucky_ledger.pages.entries import entries_data, entries_page
from plucky_ledger.pages.shelf import best_measure, read_shelf, shelf
from plucky_ledger.pages.statement import statement_of
from plucky_ledger.pages.verdict import balance_in_words, verdict_page
from plucky_ledger.store import jobs as stored
from plucky_ledger.store.errors import LedgerFault
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases import arming as armed
from plucky_ledger.usecases import boots, demo, jobs
from plucky_ledger.usecases.costs import round_costs
from plucky_ledger.usecases.decisions import decide
from plucky_ledger.usecases.past_boots import keep_past_boots, read_past_boots

MEASURES = [str(measure) for measure in Measure]
ledger_argument = click.argument("ledger", type=click.Path(path_type=Path))
measure_option = click.option(
    "--in", "measure", type=click.Choice(MEASURES), help="The measure the book is kept in."
)


def default_ledger() -> Path:
    """The workshop's ledger, where the desktop keeps a user's data."""
    return user_data_path("plucky-ledger") / "workshop.ledger"


@click.group(invoke_without_command=True)
@click.version_option(__version__)
@click.option("--ledger", type=click.Path(path_type=Path), help="The ledger file to open.")
@click.option("--demo", "with_demo", is_flag=True, help="Open the demo job instead.")
@click.pass_context
def main(context: click.Context, ledger: Path | None, with_demo: bool) -> None:
    """Keep the account of what a PC's startup costs. Without a command, the window opens."""
    if context.invoked_subcommand is not None:
        return
    path = ledger or default_ledger()
    if with_demo and ledger is None:
        path = default_ledger().with_name("demo.ledger")
    sys.exit(context.obj(path, with_demo))


@main.command()
@click.argument("arguments", nargs=-1)
def record(arguments: tuple[str, ...]) -> None:
    """Record this PC without a screen: see plucky-ledger record --help."""
    from plucky_ledger.cli.record import main as record_main

    sys.exit(record_main(arguments))


@main.command(name="past-boots")
@click.argument("job")
@click.option("--ledger", type=click.Path(path_type=Path), help="The ledger to write in.")
def past_boots(job: str, ledger: Path | None) -> None:
    """Read this PC's past boots back from its log into the book of JOB (its label)."""
    with _opened(ledger or default_ledger()) as book, Progress(transient=True) as progress:
        task = progress.add_task("Reading the log", total=None)

        def told(found: int, lines: int) -> bool:
            progress.update(task, description=f"{found} boots in {lines} lines")
            return True

        found = read_past_boots(told)
        click.echo(keep_past_boots(book, jobs.find_job(book, job), found).told)


level_options = [
    click.option(f"--{level}", "level", flag_value=str(level), help=text)
    for level, text in (
        (Level.USER, "Start with the user's services, at sign-in (the default)."),
        (Level.SYSTEM, "Start with the system's services; needs the administrator."),
        (Level.AUTOSTART, "Start as a sign-in program, where there is no user manager."),
    )
]


@main.command()
@click.argument("job")
@click.option("--boots", default=3, show_default=True, help="How many boots to record.")
@level_options[0]
@level_options[1]
@level_options[2]
@click.option("--ledger", type=click.Path(path_type=Path), help="The ledger of the job.")
def arm(job: str, boots: int, level: str | None, ledger: Path | None) -> None:
    """Record the next boots of this PC by itself, for JOB (its label)."""
    with _opened(ledger or default_ledger()) as book:
        number = jobs.find_job(book, job).number
        folder = armed.armed_folder(book.path, number)
        click.echo(armed.arm(folder, boots, Level(level or Level.USER)))


@main.command()
@click.argument("job")
@click.option("--ledger", type=click.Path(path_type=Path), help="The ledger of the job.")
def disarm(job: str, ledger: Path | None) -> None:
    """Take back the arming for JOB (its label) and remove every trace of it."""
    with _opened(ledger or default_ledger()) as book:
        number = jobs.find_job(book, job).number
        click.echo(armed.disarm(armed.armed_folder(book.path, number)))


@main.command(name="jobs")
@ledger_argument
def list_jobs(ledger: Path) -> None:
    """List the jobs in LEDGER."""
    with _opened(ledger) as book:
        table = Table("label", "PC", "owner", "state", "saved")
        for spine in shelf(*read_shelf(book)):
            table.add_row(spine.label, spine.title, spine.owner, spine.state, spine.saved)
        Console().print(table)


@main.command(name="import")
@click.argument("files", nargs=-1, required=True, type=click.Path(path_type=Path))
@click.option("--ledger", type=click.Path(path_type=Path), help="The ledger to import into.")
@click.option("--job", "label", help="Label of the job; without it a new job is taken in.")
def import_files(files: tuple[Path, ...], ledger: Path | None, label: str | None) -> None:
    """Import recordings FILES into a job's book."""
    with _opened(ledger or default_ledger()) as book:
        job = jobs.find_job(book, label) if label else None
        refused = 0
        for path in files:
            try:
                if job is None:
                    boots.read_recording_file(path)  # no job is taken in for a file that is none
                    number = jobs.take_in(book, Card("", f"PC of {path.stem}"), Facts())
                    job = stored.job(book, number)
                told = boots.import_recording(book, job, path).told
                job = stored.job(book, job.number)
            except jobs.Refused as refusal:
                refused += 1
                told = str(refusal)
            click.echo(f"{path.name}: {told}")
    sys.exit(1 if refused else 0)


@main.command()
@ledger_argument
@click.argument("job")
@measure_option
def compare(ledger: Path, job: str, measure: str | None) -> None:
    """Print the verdict on JOB (its label) in LEDGER: every posting, then the whole."""
    with _opened(ledger) as book:
        found = jobs.find_job(book, job)
        kept_in = Measure(measure) if measure else best_measure(found)
        console = Console(highlight=False)
        for line in range(1, len(found.rounds) + 1):
            if line < len(found.rounds):
                console.print(f"\n[bold]{_escaped(found.postings[line - 1].particulars)}[/bold]")
            else:
                console.print("\n[bold]The whole job[/bold]")
            _print_verdict(console, found, kept_in, line)
        console.print(f"\n{balance_in_words(found, kept_in)}")


@main.command()
@ledger_argument
@click.argument("job")
@click.option("--line", type=int, help="Line of the book, the opening round being 0.")
@click.option("--system", is_flag=True, help="The parts of the system, too.")
def entries(ledger: Path, job: str, line: int | None, system: bool) -> None:
    """Print what starts by itself on JOB, what it costs, and what the plan would win."""
    with _opened(ledger) as book:
        found = jobs.find_job(book, job)
        page = entries_page(entries_data(book, found, _round(found, line)))
        console = Console(highlight=False)
        table = Table("grade", "entry", "seconds it costs", "MB held", "decided")
        for row in (*page.rows, *(page.system_rows if system else ())):
            seconds = row.seconds
            cost = f"{row.cost} ({seconds.low:.1f} to {seconds.high:.1f})" if seconds else row.cost
            name = f"{_escaped(row.name)}\n[dim]{_escaped(row.about)}[/dim]"
            table.add_row(str(row.grade), name, _escaped(cost), row.memory, row.decision)
        console.print(table)
        for text in (page.note, page.plan_strong, page.plan):
            if text:
                console.print(_escaped(text))


def _round(job: Job, line: int | None) -> tuple[Boot, ...]:
    """Boots of a line of the book; of the last one recorded when none is named."""
    if line is None:
        return next((boots for boots in reversed(job.rounds) if boots), ())
    if not 0 <= line < len(job.rounds):
        raise jobs.Refused(f"The book has no line {line}: its last one is {len(job.rounds) - 1}.")
    return job.rounds[line]


@main.command("decide")
@ledger_argument
@click.argument("job")
@click.argument("entry")
@click.argument("decision", type=click.Choice([str(decision) for decision in Decision]))
@click.option("--why", default="", help="The reason.")
@click.option("--mean-it", is_flag=True, help="Also where the entry is guarded.")
def decide_entry(
    ledger: Path, job: str, entry: str, decision: str, why: str, mean_it: bool
) -> None:
    """Decide about ENTRY (its name or id) of JOB; what it changes is pencilled."""
    with _opened(ledger) as book:
        found = jobs.find_job(book, job)
        known = round_costs(book, found.number, _round(found, 0)).entries
        chosen = [one for one in known if entry in {one.entry_id, one.name}]
        if not chosen:
            raise jobs.Refused(f"No startup entry of {job} is called {entry}.")
        decide(book, found, chosen, Decision(decision), why, mean_it)
        click.echo(f"{chosen[0].name}: {decision}.")


def _print_verdict(console: Console, job: Job, measure: Measure, line: int) -> None:
    page = verdict_page(job, measure, line)
    console.print(f"{_escaped(page.answer)} {page.stamp}")
    console.print(_escaped(page.basis), style="dim")
    table = Table("measure", "shift (95 % interval)", "verdict")
    for row in page.rows:
        table.add_row(row.title, row.shift, str(row.verdict or ""))
    console.print(table)
    for text in (page.fair, page.to_decide):
        if text:
            console.print(_escaped(text))


def _escaped(text: str) -> str:
    from rich.markup import escape

    return escape(text)


@main.command()
@ledger_argument
@click.argument("job")
@click.option(
    "--out", type=click.Path(path_type=Path), default=Path("statement.pdf"),
    help="File to write; .html or .pdf (default statement.pdf).",
)  # fmt: skip
@measure_option
def statement(ledger: Path, job: str, out: Path, measure: str | None) -> None:
    """Write the statement on JOB (its label) in LEDGER."""
    with _opened(ledger) as book:
        found = jobs.find_job(book, job)
        made = statement_of(found, Measure(measure) if measure else best_measure(found))
        (save_html if out.suffix in {".html", ".htm"} else save_pdf)(made, out)
    click.echo(f"The statement is in {out}.")


@main.command(name="demo-ledger")
@ledger_argument
def demo_ledger(ledger: Path) -> None:
    """Write the demo job into the new file LEDGER."""
    if ledger.exists():
        _fail(f"{ledger} exists already and was left as it is. Choose another name.")
    with _told_plainly(), Progress() as progress:
        task = progress.add_task("Recording the stand-in PC", total=None)

        def told(done: int, total: int) -> bool:
            progress.update(task, completed=done, total=total)
            return True

        demo.write_demo(ledger, told)


@contextmanager
def _opened(path: Path) -> Iterator[Ledger]:
    """The ledger, closed again at the end."""
    with _told_plainly(), Ledger(path) as ledger:
        yield ledger


@contextmanager
def _told_plainly() -> Iterator[None]:
    """Trouble from outside is told in one sentence."""
    try:
        yield
    except (LedgerFault, jobs.Refused, NotSaved) as trouble:
        _fail(str(trouble))


def _fail(sentence: str) -> NoReturn:
    click.echo(sentence, err=True)
    sys.exit(1)
