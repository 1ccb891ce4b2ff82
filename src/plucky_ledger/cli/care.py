"""A PC in care: the recorder stays on it, and what came of it is told."""

import click

from plucky_ledger.cli.common import (
    job_argument,
    job_kept_in,
    json_option,
    ledger_option,
    ledger_path,
    opened,
)
from plucky_ledger.cli.output import tell
from plucky_ledger.cli.why import tell_trend
from plucky_ledger.core.pc.arming import MOST_EVERY, MOST_KEPT, Care, Level


@click.command()
@job_argument
@click.option(
    "--every",
    type=click.IntRange(1, MOST_EVERY),
    default=Care.every,
    show_default=True,
    help="Record one boot in so many.",
)
@click.option(
    "--keep",
    type=click.IntRange(1, MOST_KEPT),
    default=Care.keep,
    show_default=True,
    help="How many recordings stay on this PC.",
)
@click.option(
    "--hand-to",
    default="",
    help="Folder that copies go into whenever it is there, or a workshop's ledger (postgresql://…).",
)
@click.option(
    "--level",
    type=click.Choice([level.value for level in Level]),
    help="How early the recorder starts; as early as can be had without it.",
)
@click.option("--end", is_flag=True, help="End it: every trace of the recorder goes.")
@click.option(
    "--report", is_flag=True, help="Say whether it got slower, since when, and what came."
)
@ledger_option
@json_option
def care(
    job: str,
    every: int,
    keep: int,
    hand_to: str,
    level: str | None,
    end: bool,
    report: bool,
    ledger: str | None,
    as_json: bool,
) -> None:
    """Keep the recorder on this PC for good, for JOB: one boot in several is recorded."""
    from plucky_ledger.usecases.jobs.jobs import find_job
    from plucky_ledger.usecases.jobs.workplace import Workplace
    from plucky_ledger.usecases.reading.analyses import Analyses
    from plucky_ledger.usecases.reading.trend import trend
    from plucky_ledger.usecases.recording.arming import arm, armed_state, disarm
    from plucky_ledger.usecases.recording.care import care_handing_to
    from plucky_ledger.usecases.recording.picking_up import pick_up
    from plucky_ledger.wording.disarming import disarmed
    from plucky_ledger.wording.recording import armed_state as state_in_words
    from plucky_ledger.wording.recording import in_care

    with opened(ledger) as book:
        place, number = Workplace.beside(ledger_path(ledger)), find_job(book, job)
        if end:
            tell(disarmed(disarm(book, place, number)))
            return
        if not report:
            wanted = care_handing_to(place, every, keep, hand_to)
            reached = arm(book, place, number, 1, Level(level) if level else None, in_care(wanted))
            tell(state_in_words(armed_state(place, number), reached))
            return
        pick_up(book, place, number)
        chosen, kept_in = job_kept_in(job, None, ledger)
        found = trend(book, chosen.number, kept_in, Analyses())
    tell_trend(found, as_json=as_json)
