"""Commands about what starts by itself, what is decided, and who uses the PC."""

from typing import TYPE_CHECKING

import click

from plucky_ledger.cli.answers import answer_json
from plucky_ledger.cli.common import (
    entry_argument,
    job_argument,
    json_option,
    ledger_option,
    line_option,
    opened,
    optional_package,
)
from plucky_ledger.cli.output import Paper, tell
from plucky_ledger.core.entries.decisions import Decision
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.values.nearest import nearest
from plucky_ledger.core.values.reasons import Reason, ReasonCode
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.wording.language import say

if TYPE_CHECKING:
    from plucky_ledger.core.boots.boot import Boot
    from plucky_ledger.core.entries.entry import StartupEntry
    from plucky_ledger.pages.entries import EntriesPage
    from plucky_ledger.usecases.jobs.opening import Ledger


@click.command()
@job_argument
@line_option
@click.option("--system", is_flag=True, help="The parts of the system, too.")
@click.option("--sources", is_flag=True, help="Where was looked, and what may not be read.")
@ledger_option
@json_option
def entries(
    job: str, line: int | None, system: bool, sources: bool, ledger: str | None, as_json: bool
) -> None:
    """Print what starts by itself on JOB's PC, what it costs, and what the plan would win."""
    if sources:
        _tell_sources(job, ledger, as_json)
        return
    from plucky_ledger.cli.book_lines import boots_of_line
    from plucky_ledger.usecases.jobs.jobs import find_job, read_job

    with opened(ledger) as book:
        number = find_job(book, job)
        page = entries_as_far_as_known(book, number, boots_of_line(read_job(book, number), line))
    rows = (*page.rows, *(page.system_rows if system else ()))
    if as_json:
        answer_json("entries", {"entries": rows, "plan": page.plan})
        return
    from plucky_ledger.wording.entries import entry_in_words, looked_in_words, note, plan_in_words
    from plucky_ledger.wording.intervals import estimated
    from plucky_ledger.wording.labels import label
    from plucky_ledger.wording.safe import shown

    cells = []
    for row in rows:
        words, settled = entry_in_words(row), row.cost.settled
        cost = f"{words.cost} ({estimated(settled)})" if settled else words.cost
        name = (words.name, f"{words.about} · {shown(row.entry.entry_id)}")
        cells.append((label(row.grade), name, cost, words.memory, words.decision))
    paper = Paper()
    paper.table(
        (say("grade"), say("entry"), say("seconds it costs"), say("MB held"), say("decided")),
        cells,
    )
    paper.write(note(page), looked_in_words(page.looked), *plan_in_words(page))


def _tell_sources(job: str, ledger: str | None, as_json: bool) -> None:
    """Where the newest recording looked for entries besides the service managers."""
    from plucky_ledger.usecases.jobs.jobs import find_job
    from plucky_ledger.usecases.reading.entries import sources_looked_at

    with opened(ledger) as book:
        looked = sources_looked_at(book, find_job(book, job))
    if as_json:
        answer_json("sources", {"sources": looked})
        return
    from plucky_ledger.core.entries.sources import of_an_init_system
    from plucky_ledger.wording.labels import label

    paper = Paper()
    if looked:
        cells = [
            (label(one.source), str(one.files), str(one.entries), ", ".join(one.refused))
            for one in looked
        ]
        headings = say("source"), say("files read"), say("entries"), say("not readable")
        paper.table(headings, cells)
        if not of_an_init_system(looked):
            paper.write(say("Services, timers and sign-in programs come from their managers."))
    else:
        paper.write(say("No recording of this PC lists the places that were searched."))


def entries_as_far_as_known(
    book: "Ledger", number: int, boots: tuple["Boot", ...]
) -> "EntriesPage":
    """The entries of a round; without costs, and why, where the numerics are not installed."""
    from plucky_ledger.pages.entries import entries_page, entries_without_costs
    from plucky_ledger.usecases.reading.elsewhere import WorkshopMemory
    from plucky_ledger.usecases.reading.entries import entries_of_round

    try:
        from plucky_ledger.usecases.reading.analyses import Analyses
        from plucky_ledger.usecases.reading.costs import CostsKept
    except ModuleNotFoundError as error:
        package = optional_package(error)
        listed = entries_of_round(book, number, boots)
        why = Reason.of(ReasonCode.NUMERICS_MISSING, package=package)
        return entries_without_costs(book, number, listed, WorkshopMemory(), why)
    return entries_page(book, number, boots, CostsKept(Analyses()), WorkshopMemory())


def entry_named(book: "Ledger", job: str, wanted: str) -> list["StartupEntry"]:
    """Entries of a job with this name or id. Raises Refused where there is none."""
    from plucky_ledger.usecases.jobs.jobs import find_job
    from plucky_ledger.usecases.reading.entries import entries_known

    listed = entries_known(book, find_job(book, job))
    chosen = [entry for entry in listed if wanted in {entry.entry_id, entry.name}]
    if not chosen:
        names, ids = ([entry.name for entry in listed], [entry.entry_id for entry in listed])
        meant = nearest(wanted, names) or nearest(wanted, ids)
        raise Refused(TroubleCode.NO_SUCH_ENTRY, job=job, entry=wanted, nearest=", ".join(meant))
    return chosen


@click.command("decide")
@job_argument
@entry_argument
@click.argument("decision", type=click.Choice([decision.value for decision in Decision]))
@click.option("--why", default="", help="The reason.")
@click.option(
    "--how",
    metavar="STATE",
    help="How exactly it is to be set; a wrong one lists what this entry can be.",
)
@click.option("--mean-it", is_flag=True, help="Also where the entry is guarded.")
@ledger_option
def decide_entry(
    job: str,
    entry: str,
    decision: str,
    why: str,
    how: str | None,
    mean_it: bool,
    ledger: str | None,
) -> None:
    """Decide about ENTRY (its name or id) of JOB; what it changes is pencilled."""
    from plucky_ledger.usecases.changing.decisions import decide
    from plucky_ledger.usecases.jobs.jobs import find_job
    from plucky_ledger.wording.labels import label
    from plucky_ledger.wording.safe import shown

    with opened(ledger) as book:
        number = find_job(book, job)
        chosen = entry_named(book, job, entry)
        state = _state_named(book, number, chosen[0], how) if how else None
        decide(book, number, chosen, Decision(decision), why, mean_it, state)
    tell(f"{shown(chosen[0].name)}: {label(Decision(decision))}.")


def _state_named(book: "Ledger", number: int, entry: "StartupEntry", how: str) -> EntryState:
    """How an entry is to be set. Raises Refused where it cannot be."""
    from plucky_ledger.usecases.changing.control import possible_states

    possible = possible_states(book, number, entry.entry_id)
    if how not in possible:
        named = ", ".join(state.value for state in possible)
        raise Refused(TroubleCode.NOT_SET_SO, name=entry.name, how=how, possible=named)
    return EntryState(how)


@click.command()
@job_argument
@line_option
@click.option("--by-entry", is_flag=True, help="One row an entry, not a program.")
@click.option(
    "--span",
    type=click.Choice(["startup", "at_rest", "whole"]),
    default="startup",
    show_default=True,
    help="The stretch of time looked at.",
)
@ledger_option
@json_option
def load(
    job: str, line: int | None, by_entry: bool, span: str, ledger: str | None, as_json: bool
) -> None:
    """Print what each program used in the newest boot of a line of JOB."""
    from plucky_ledger.cli.book_lines import boots_of_line
    from plucky_ledger.core.boots.boot import counted
    from plucky_ledger.pages.load import By, LoadQuestion, Span, load_answer
    from plucky_ledger.usecases.jobs.jobs import find_job, read_job
    from plucky_ledger.usecases.reading.analyses import Analyses

    with opened(ledger) as book:
        number = find_job(book, job)
        boots = boots_of_line(read_job(book, number), line)
        if not boots:
            raise Refused(TroubleCode.NO_SUCH_BOOT, line=line or 0, boot=1, boots=0)
        boot = (counted(boots) or boots)[-1]
        question = LoadQuestion(Span(span), By.ENTRY if by_entry else By.PROGRAM)
        page = load_answer(book, number, boot, Analyses(), question).page
    if as_json:
        answer_json("load", {"rows": page.rows, "sums": page.sums, "span": page.span})
        return
    from plucky_ledger.wording.load import (
        load_in_words,
        nothing_watched,
        stock_in_words,
        summary,
        sums_in_words,
    )

    paper = Paper()
    if sentence := nothing_watched(page):
        paper.write(sentence)
        return
    cells = []
    for row in page.rows:
        words = load_in_words(row)
        cells.append((" · ".join(filter(None, (words.name, words.remark))), *words.figures))
    paper.table(
        (say("name"), say("CPU·s"), say("memory held"), say("read"), say("processes")), cells
    )
    paper.write(sums_in_words(page), stock_in_words(page), summary(page))
