"""Commands that bring a PC from state to state: boots in turns, and which change did it."""

from typing import TYPE_CHECKING

import click

from plucky_ledger.cli.answers import answer_json
from plucky_ledger.cli.common import (
    job_argument,
    job_kept_in,
    json_option,
    ledger_option,
    ledger_path,
    measure_option,
    opened,
)
from plucky_ledger.cli.output import Paper, tell
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.wording.language import say

if TYPE_CHECKING:
    from plucky_ledger.usecases.jobs.opening import Ledger


@click.command()
@job_argument
@click.option("--line", type=int, help="Begin with the states that this line of the book compares.")
@click.option("--end", is_flag=True, help="Take no more boots in turns; the PC stays as it is.")
@click.option("--restart", is_flag=True, help="Arm the recorder and restart this PC at once.")
@measure_option
@ledger_option
def turns(
    job: str, line: int | None, end: bool, restart: bool, measure: str | None, ledger: str | None
) -> None:
    """Take the next boot of JOB in turns: switch its PC to the other state.

    Begin with --line. What was interrupted is gone on with by the same command. A stand-in PC
    takes all of them at once.
    """
    from plucky_ledger.core.pc.which import PcKind
    from plucky_ledger.usecases.changing.switching import recover_interrupted_switch
    from plucky_ledger.usecases.jobs.jobs import find_job, read_job
    from plucky_ledger.usecases.jobs.workplace import Workplace
    from plucky_ledger.usecases.recording import arming
    from plucky_ledger.usecases.recording import turns as taking
    from plucky_ledger.wording.switching import turns_begun, turns_going_on

    with opened(ledger) as book:
        number = find_job(book, job)
        if end:
            taking.end_turns(book, number)
            return
        if line is not None:
            kept_in = Measure(measure) if measure else Measure.SETTLED
            tell(turns_begun(taking.begin_turns(book, number, kept_in, line)))
        if read_job(book, number).pc.kind is PcKind.STAND_IN:
            _play(book, number)
            return
        recover_interrupted_switch(book, number)
        turn = taking.take_turn(book, number)
        tell(turns_going_on(turn.left))
        if turn.by_hand:
            tell(say("Make the pencilled changes by hand, then post them with --by-hand."))
        elif turn.left and restart:
            place = Workplace.beside(ledger_path(ledger))
            arming.arm(book, place, number, 1)
            arming.restart(book, number)


def _play(book: "Ledger", number: int) -> None:
    from plucky_ledger.usecases.recording.turns import play_turn
    from plucky_ledger.wording.switching import turns_going_on

    while (turn := play_turn(book, number)).left:
        tell(turns_going_on(turn.left))
    tell(turns_going_on(0))


@click.command()
@job_argument
@measure_option
@ledger_option
@json_option
def effects(job: str, measure: str | None, ledger: str | None, as_json: bool) -> None:
    """Print which change of JOB did how much, and the best next boot."""
    from plucky_ledger.pages.effects import effects_page
    from plucky_ledger.wording import effects as words

    page = effects_page(*job_kept_in(job, measure, ledger))
    if as_json:
        answer_json("effects", page)
        return
    paper = Paper()
    paper.write(words.headline(page), words.basis(page))
    paper.table(
        (say("change"), say("effect")),
        [
            ((words.effect_name(row), words.effect_basis(row)), words.effect_in_words(row, page))
            for row in page.rows
        ],
    )
    paper.write(words.next_restart(page))
