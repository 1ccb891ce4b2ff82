"""What the commands have in common: the ledger, the job, how answers and trouble are told."""

import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Any, NoReturn, TypeVar

import click

from plucky_ledger.cli.output import tell
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.core.values.trouble import Refused, Trouble, TroubleCode
from plucky_ledger.usecases.jobs.workplace import may_have_preferences

if TYPE_CHECKING:
    from plucky_ledger.core.job.job import Job
    from plucky_ledger.usecases.jobs.opening import Address, Ledger

F = TypeVar("F", bound=Callable[..., Any])
R = TypeVar("R")

ledger_option = click.option(
    "--ledger",
    metavar="ADDRESS",
    help="The ledger: a file, by default the workshop's own; or postgresql://… on a server.",
)
new_option = click.option(
    "--new", is_flag=True, help="Begin a new ledger where --ledger names none yet."
)
json_option = click.option("--json", "as_json", is_flag=True, help="Answer as JSON, for scripts.")
measure_option = click.option(
    "--in",
    "measure",
    type=click.Choice([measure.value for measure in Measure]),
    help="The measure the book is kept in; by default the first that was measured.",
)
line_option = click.option("--line", type=int, help="Line of the book, the opening round being 0.")


def _labels(context: click.Context, _parameter: click.Parameter, begun: str) -> list[str]:
    """Labels that complete what was begun; none where the ledger cannot be read."""
    from plucky_ledger.usecases.jobs.jobs import read_jobs

    def labels(ledger: "Ledger") -> list[str]:
        return [job.card.label for job in read_jobs(ledger)]

    return _begun(context, labels, begun)


def _entries(context: click.Context, _parameter: click.Parameter, begun: str) -> list[str]:
    """Names of entries of the job that was named, and ids once one is begun."""
    from plucky_ledger.usecases.jobs.jobs import find_job
    from plucky_ledger.usecases.reading.entries import entries_known

    def names(ledger: "Ledger") -> list[str]:
        known = entries_known(ledger, find_job(ledger, _job_named(context)))
        by_name = sorted({entry.name for entry in known})
        return [*by_name, *(entry.entry_id for entry in known)] if begun else by_name

    return _begun(context, names, begun)


def _entry_ids(context: click.Context, _parameter: click.Parameter, begun: str) -> list[str]:
    """Ids of entries of the job that was named."""
    from plucky_ledger.usecases.jobs.jobs import find_job
    from plucky_ledger.usecases.reading.entries import entries_known

    def ids(ledger: "Ledger") -> list[str]:
        known = entries_known(ledger, find_job(ledger, _job_named(context)))
        return [entry.entry_id for entry in known]

    return _begun(context, ids, begun)


def _job_named(context: click.Context) -> str:
    """The label so far; it is among what is not understood yet where an option has no value."""
    return str(context.params.get("job") or next(iter(context.args), ""))


def _begun(
    context: click.Context, offered: Callable[["Ledger"], list[str]], begun: str
) -> list[str]:
    """What a ledger offers for what was begun; nothing where it, or the job, cannot be read."""
    try:
        address = ledger_address(context.params.get("ledger"))
        if address.is_missing:
            return []
        with _ledger(address) as ledger:
            return [text for text in offered(ledger) if text.startswith(begun)]
    except Trouble:
        return []


job_argument = click.argument("job", shell_complete=_labels)
job_or_none_argument = click.argument("job", required=False, shell_complete=_labels)
entry_argument = click.argument("entry", shell_complete=_entries)


def job_option(*, help: str) -> Callable[[F], F]:  # noqa: A002 as click calls it
    """``--job LABEL``."""
    return click.option("--job", "label", shell_complete=_labels, help=help)


def entries_option(*, help: str) -> Callable[[F], F]:  # noqa: A002 as click calls it
    """``--entry ID``, as often as wanted."""
    return click.option("--entry", "entries", multiple=True, shell_complete=_entry_ids, help=help)


def ledger_address(named: str | None) -> "Address":
    """The ledger that was named, or the workshop's own. Raises Trouble for an unknown kind."""
    from plucky_ledger.usecases.jobs.opening import address_of
    from plucky_ledger.usecases.jobs.workplace import default_ledger

    return address_of(named or default_ledger())


def ledger_path(named: str | None) -> Path:
    """Its file; of a server's ledger what stands for it on this PC. Raises Trouble."""
    return ledger_address(named).local


def demo_path() -> Path:
    """The ledger with the demo job. Raises Trouble where there is no home folder."""
    from plucky_ledger.usecases.jobs.workplace import DEMO_LEDGER

    return ledger_path(None).with_name(DEMO_LEDGER)


@contextmanager
def opened(named: str | None, make: bool = False, new: bool = False) -> Iterator["Ledger"]:
    """The ledger, closed again at the end.

    A new one is begun with ``new``, and with ``make`` where it is the workshop's own: a path that
    was mistyped makes none.
    """
    from plucky_ledger.usecases.jobs.logs import logging_into
    from plucky_ledger.usecases.jobs.workplace import Workplace

    with told_plainly():
        address = ledger_address(named)
        if not (new or (make and not named)):
            refuse_missing(address)
        place = Workplace.beside(address.local)
        with (
            logging_into(lambda: place.logs),
            with_secret(address, lambda: _ledger(address)) as ledger,
        ):
            _bring_figures_up_to_date(ledger)
            yield ledger


def refuse_missing(address: "Address") -> None:
    """Raises Refused where there is no ledger."""
    if address.is_missing:
        raise Refused(TroubleCode.LEDGER_NOT_THERE, path=address.text)


def _ledger(address: "Address") -> "Ledger":
    from plucky_ledger.usecases.jobs.opening import open_ledger

    return open_ledger(address)


def with_secret(address: "Address", work: Callable[[], R]) -> R:
    """Do something with a server's ledger; the password is asked for where one is wanted and
    somebody is there to type it.
    """
    try:
        return work()
    except Trouble as trouble:
        if trouble.code is not TroubleCode.LEDGER_PASSWORD_WANTED or not sys.stdin.isatty():
            raise
    from plucky_ledger.usecases.jobs.shared_ledger import use_secret
    from plucky_ledger.wording.language import say

    use_secret(address, click.prompt(say("Password"), hide_input=True, err=True))
    return work()


def _bring_figures_up_to_date(ledger: "Ledger") -> None:
    """Once after an update that changed how figures are made."""
    from plucky_ledger.usecases.jobs.shelf import jobs_of_older_figures, keep_missing_spines

    if ledger.read_only_because is not None:
        return
    while keep_missing_spines(ledger):
        pass
    for number in jobs_of_older_figures(ledger):
        from plucky_ledger.usecases.recording.figures import bring_figures_up_to_date

        bring_figures_up_to_date(ledger, number)


def job_kept_in(label: str, measure: str | None, ledger: str | None) -> "tuple[Job, Measure]":
    """A job, and the measure its book is kept in: the named one, or the first that was measured."""
    from plucky_ledger.pages.shelf import best_measure
    from plucky_ledger.usecases.jobs.jobs import find_job, read_job

    with opened(ledger) as book:
        job = read_job(book, find_job(book, label))
    return job, Measure(measure) if measure else best_measure(job)


OPTIONAL = {"numpy": "numerics"}
"""Packages that a command may lack, and the extra each comes with."""


def optional_package(error: ModuleNotFoundError) -> str:
    """Name of the optional package that is not installed; raises what is any other error."""
    package = (error.name or "").partition(".")[0]
    if package not in OPTIONAL:
        raise error
    return package


def preferred_language() -> str:
    """The language this user prefers; empty for the system's."""
    if not may_have_preferences():
        return ""
    from plucky_ledger.usecases.jobs.preferences import read_preferences

    return read_preferences().language


@contextmanager
def told_plainly() -> Iterator[None]:
    """Trouble from outside is told in one sentence."""
    try:
        yield
    except Trouble as trouble:
        fail(trouble)
    except ModuleNotFoundError as error:
        package = optional_package(error)
        fail(Refused(TroubleCode.PACKAGE_MISSING, package=package, extra=OPTIONAL[package]))


def fail(trouble: Trouble) -> NoReturn:
    """Tell of trouble and end."""
    from plucky_ledger.wording.trouble import trouble_in_words

    tell(trouble_in_words(trouble), err=True)
    sys.exit(1)
