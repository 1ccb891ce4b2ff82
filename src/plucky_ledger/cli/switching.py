"""Commands that change the PC, and put back what was changed: the book follows."""

from typing import TYPE_CHECKING

import click

from plucky_ledger.cli.answers import answer_json
from plucky_ledger.cli.common import (
    entries_option,
    entry_argument,
    job_argument,
    job_or_none_argument,
    json_option,
    ledger_option,
    ledger_path,
    opened,
    optional_package,
    told_plainly,
)
from plucky_ledger.cli.output import Paper, tell
from plucky_ledger.core.pc.arming import Afterwards
from plucky_ledger.wording.language import say

if TYPE_CHECKING:
    from plucky_ledger.core.replay.startup_cost import PlanEstimate
    from plucky_ledger.usecases.jobs.opening import Ledger

arm_option = click.option(
    "--arm", "then_arm", is_flag=True, help="Arm the recorder for the next boots as well."
)


@click.command()
@job_argument
@click.option("--by-hand", is_flag=True, help="It was done already: change nothing on the PC.")
@arm_option
@ledger_option
def post(job: str, by_hand: bool, then_arm: bool, ledger: str | None) -> None:
    """Make the changes that are pencilled for JOB: from then on a restart is due.

    On this PC they are made by this command; on another, and what it cannot make, you make them.
    """
    from plucky_ledger.usecases.changing import switching
    from plucky_ledger.usecases.jobs.jobs import find_job
    from plucky_ledger.wording.switching import posted

    with opened(ledger) as book:
        number = find_job(book, job)
        switching.recover_interrupted_switch(book, number)
        plan = _expected(book, number)
        made = switching.Made() if by_hand else switching.switch_pencilled(book, number)
        switching.post(book, number, made, plan)
        tell(posted(made))
        _arm_or_say(book, number, job, then_arm, ledger)


def _arm_or_say(book: "Ledger", number: int, job: str, then_arm: bool, ledger: str | None) -> None:
    """Arm the next boots of a PC that can be, or say how: without it nothing records them."""
    from plucky_ledger.usecases.jobs.jobs import read_job
    from plucky_ledger.usecases.jobs.preferences import read_preferences
    from plucky_ledger.usecases.jobs.workplace import Workplace
    from plucky_ledger.usecases.recording import arming
    from plucky_ledger.usecases.recording.pcs import pc_of
    from plucky_ledger.wording.recording import armed, recorded_notices

    if not pc_of(read_job(book, number)).abilities.arm:
        return
    place = Workplace.beside(ledger_path(ledger))
    if then_arm:
        usual = read_preferences()
        then = Afterwards(usual.look_minutes * 60, recorded_notices())
        tell(armed(usual.boots, arming.arm(book, place, number, usual.boots, then=then)))
    elif not arming.armed_state(place, number).boots_left:
        tell(
            say(
                "Nothing records the next boots yet: plucky-ledger arm {job} --restart does.",
                job=job,
            )
        )


def _expected(book: "Ledger", number: int) -> "PlanEstimate | None":
    """What the pencilled changes would bring; None where the numerics are not installed."""
    try:
        from plucky_ledger.usecases.reading.analyses import Analyses
        from plucky_ledger.usecases.reading.costs import CostsKept
    except ModuleNotFoundError as error:
        optional_package(error)
        return None
    return CostsKept(Analyses()).expected(book, number)


@click.command("put-back")
@job_or_none_argument
@click.option("--line", type=int, help="Line of the book with the posting.")
@entries_option(help="Only this entry of it, by its id.")
@click.option(
    "--everything",
    is_flag=True,
    help="Everything since the opening; without a JOB, of "
    "all jobs, by this PC's own journal of changes.",
)
@click.option("--cut-off", is_flag=True, help="Only what was cut off, by the journal.")
@click.option("--why", default="", help="The reason.")
@click.option("--show", is_flag=True, help="Only print what would be undone.")
@arm_option
@ledger_option
def put_back(
    job: str | None,
    line: int | None,
    entries: tuple[str, ...],
    everything: bool,
    cut_off: bool,
    why: str,
    show: bool,
    then_arm: bool,
    ledger: str | None,
) -> None:
    """Put back what was changed: a posting of JOB, part of it, or everything; restart due.

    Without a JOB no ledger is needed: this PC's own journal of changes says what was changed.
    """
    if job is None:
        if everything is cut_off:
            raise click.UsageError(say("Name a JOB, or use --everything or --cut-off."))
        _put_back_by_the_journal(cut_off)
    elif everything is (line is not None):
        raise click.UsageError(say("Choose --line N or --everything."))
    else:
        _put_back_in_the_book(job, line, entries, None if show else why, then_arm, ledger)


def _put_back_by_the_journal(cut_off: bool) -> None:
    from plucky_ledger.usecases.changing.putting_back import put_back_by_the_journal
    from plucky_ledger.wording.switching import put_back_in_words

    with told_plainly():
        undone = put_back_by_the_journal(cut_off)
    tell(put_back_in_words(undone))
    _tell_what_is_left_out()


def _tell_what_is_left_out() -> None:
    """Files of this PC's journals of changes that are not believed."""
    from plucky_ledger.usecases.changing.control import control_of_this_pc
    from plucky_ledger.wording.reasons import reason_in_words

    with told_plainly():
        for reason in control_of_this_pc().left_out():
            tell(reason_in_words(reason), err=True)


def _put_back_in_the_book(
    job: str,
    line: int | None,
    entries: tuple[str, ...],
    why: str | None,
    then_arm: bool,
    ledger: str | None,
) -> None:
    """Without a reason, not even an empty one, it is only shown."""
    from plucky_ledger.cli.book_lines import posting_of_line
    from plucky_ledger.usecases.changing import putting_back, switching
    from plucky_ledger.usecases.jobs.jobs import find_job, read_job
    from plucky_ledger.wording.switching import planned_in_words, struck_out

    with opened(ledger) as book:
        number = find_job(book, job)
        chosen = posting_of_line(read_job(book, number), line) if line is not None else None
        posting = chosen.number if chosen else None
        if why is None:
            for one in putting_back.planned_put_back(book, number, posting, entries):
                tell(": ".join(filter(None, planned_in_words(one))))
            return
        switching.recover_interrupted_switch(book, number)
        by_hand = putting_back.put_back(book, number, posting, entries, why)
        tell(struck_out(by_hand))
        _arm_or_say(book, number, job, then_arm, ledger)


@click.command()
@json_option
def changes(as_json: bool) -> None:
    """Print this PC's own journal of changes: what was changed, when, and what was put back."""
    from plucky_ledger.usecases.changing.control import control_of_this_pc

    with told_plainly():
        recorded = control_of_this_pc().changes()
    _tell_what_is_left_out()
    if as_json:
        answer_json("changes", recorded)
        return
    paper = Paper()
    if not recorded:
        paper.write(say("Nothing was changed on this PC."))
        return
    paper.table(
        (say("when"), say("job"), say("changed"), say("put back")),
        [
            (
                change.at,
                change.job,
                ", ".join(change.entries) or (say("interrupted") if change.unfinished else ""),
                ", ".join(change.put_back),
            )
            for change in recorded
        ],
    )


@click.command("stop-now")
@job_argument
@entry_argument
@ledger_option
def stop_running(job: str, entry: str, ledger: str | None) -> None:
    """Stop ENTRY (its name or id) on this PC as a trial: try without it first.

    Nothing is kept: after a restart it is as it was, and the book is not touched.
    """
    from plucky_ledger.cli.entries import entry_named
    from plucky_ledger.usecases.changing.stop_now import stop_now
    from plucky_ledger.usecases.jobs.jobs import find_job
    from plucky_ledger.wording.switching import stopped_in_words

    with opened(ledger) as book:
        number = find_job(book, job)
        (chosen, *_) = entry_named(book, job, entry)
        tell(stopped_in_words(stop_now(book, number, chosen)))
