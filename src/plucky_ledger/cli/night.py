"""The night shift on a terminal."""

from datetime import datetime
from typing import TYPE_CHECKING

import click

from plucky_ledger.cli.answers import answer_agent, answer_json
from plucky_ledger.cli.common import (
    entries_option,
    job_argument,
    json_option,
    ledger_option,
    ledger_path,
    opened,
    told_plainly,
)
from plucky_ledger.cli.output import tell
from plucky_ledger.core.pc.arming import MOST_BOOTS

if TYPE_CHECKING:
    from plucky_ledger.usecases.recording.night_report import NightReport


@click.command("night-shift")
@job_argument
@click.option("--until", metavar="HH:MM", help="Stop then at the latest, by this PC's clock.")
@click.option(
    "--boots",
    default=24,
    show_default=True,
    type=click.IntRange(2, MOST_BOOTS),
    help="How many boots.",
)
@entries_option(help="Measure this entry (its id); by default the costliest.")
@click.option("--restart", is_flag=True, help="Restart this PC at once: what is open is closed.")
@click.option(
    "--next",
    "tells_next",
    is_flag=True,
    hidden=True,
    help="Answer what is measured next: the night shift asks so after each boot.",
)
@click.option("--stop", is_flag=True, help="Stop it now: everything is put back.")
@click.option("--report", "tells", is_flag=True, help="Tell how the last one stands, by boot.")
@json_option
@ledger_option
def night_shift(
    job: str,
    until: str | None,
    boots: int,
    entries: tuple[str, ...],
    restart: bool,
    stop: bool,
    tells: bool,
    as_json: bool,
    tells_next: bool,
    ledger: str | None,
) -> None:
    """Have this PC restart itself through a series of states, to measure what entries of JOB cost.

    Each boot is recorded; in the morning every entry has its cost with an interval. Whatever stops
    it, the PC ends as it began. It does not turn automatic sign-in on: where nobody signs in, it
    measures up to the sign-in screen.
    """
    from plucky_ledger.usecases.changing.switching import recover_interrupted_switch
    from plucky_ledger.usecases.jobs.jobs import find_job
    from plucky_ledger.usecases.jobs.workplace import Workplace
    from plucky_ledger.usecases.reading.analyses import Analyses
    from plucky_ledger.usecases.reading.costs import CostsKept
    from plucky_ledger.usecases.recording import arming
    from plucky_ledger.usecases.recording import night_shift as shift
    from plucky_ledger.usecases.recording.night_report import report
    from plucky_ledger.wording.night import begun, notice

    if stop or tells:
        with told_plainly():
            if stop:
                shift.stop()
            _report(report(), as_json)
        return
    with opened(ledger) as book:
        number = find_job(book, job)
        place = Workplace.beside(ledger_path(ledger))
        if tells_next:
            answer_agent({"off": shift.next_state(book, place, number)})
            return
        recover_interrupted_switch(book, number)
        night = shift.choose(book, number, CostsKept(Analyses()), boots, entries)
        shift.begin(book, place, number, night, _next(until), notice())
        tell(begun(night))
        if restart:
            arming.restart(book, number)


def _report(night: "NightReport | None", as_json: bool) -> None:
    from plucky_ledger.wording.night import boots_in_words, standing

    if as_json:
        answer_json("night-shift", night)
        return
    tell(standing(night))
    for line in boots_in_words(night) if night is not None else ():
        tell(line)


def _next(clock: str | None) -> datetime | None:
    """The next time that a clock shows so."""
    from plucky_ledger.usecases.jobs.clock import next_time

    if clock is None:
        return None
    try:
        time = datetime.strptime(clock, "%H:%M")
    except ValueError as error:
        raise click.BadParameter("HH:MM", param_hint="--until") from error
    return next_time(time.hour, time.minute)
