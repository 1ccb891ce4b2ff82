"""Alternating boots of two states, and bringing a PC to the state of the best next boot."""

import tempfile
from dataclasses import dataclass, replace
from pathlib import Path

from plucky_ledger.core.book.turns import changes_to, next_turn, turns_for, turns_left, why_no_turns
from plucky_ledger.core.job.job import State
from plucky_ledger.core.job.pc_states import states_of
from plucky_ledger.core.pc.which import PcKind
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.core.values.steps import StepCode
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.store import jobs as stored
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.undo import step
from plucky_ledger.usecases.changing import postings, switching
from plucky_ledger.usecases.jobs.jobs import read_job
from plucky_ledger.usecases.recording.boots import import_recording

AT_ONCE = 1e9
"""A stand-in PC that nobody looks on at runs as fast as it can."""


@dataclass(frozen=True)
class Turn:
    """What was done for the next boot of the turns."""

    left: int
    """Boots still to be recorded."""
    by_hand: bool = False
    """What is pencilled has to be changed by hand first."""
    to_switch: bool = False
    """What is pencilled is to be switched on the PC, and posted."""


def begin_turns(ledger: Ledger, number: int, measure: Measure, line: int) -> int:
    """Plan boots in turns of the two states that a line of a job's book compares.

    Returns how many boots are to be recorded.

    Raises:
        Refused: it compares none, or the PC cannot be brought back to the earlier one.
    """
    with step(ledger, StepCode.BEGIN_TURNS, number) as session:
        job = stored.read_job(session, number)
        turns = turns_for(job, measure, line)
        if turns is None:
            why = why_no_turns(job, measure, line)
            raise Refused(TroubleCode.NO_TURNS, (why,) if why is not None else ())
        planned = replace(job, turns=turns)
        stored.write_job(session, planned)
        return turns_left(planned)


def end_turns(ledger: Ledger, number: int) -> None:
    """Take no more boots in turns: the PC stays as it is."""
    with step(ledger, StepCode.END_TURNS, number) as session:
        stored.write_job(session, replace(stored.read_job(session, number), turns=None))


def take_turn(ledger: Ledger, number: int) -> Turn:
    """Bring a job's PC to the state that the next boot is wanted of; then it is to be restarted.

    Where something has to be changed by hand it is pencilled, and nothing is switched. What was cut
    off before is gone on with. Turns that are over are ended.

    Raises:
        Trouble: it could not be switched, or something else is pencilled.
    """
    turn = plan_turn(ledger, number)
    if turn.to_switch:
        switching.post(ledger, number, switching.switch_pencilled(ledger, number))
    return turn


def plan_turn(ledger: Ledger, number: int) -> Turn:
    """Pencil what the next turn takes; the PC is not touched.

    Raises Refused where something else is pencilled.
    """
    job = read_job(ledger, number)
    following = next_turn(job)
    if following is None:
        if job.turns is not None:
            end_turns(ledger, number)
        return Turn(0)
    left = turns_left(job)
    if states_of(job).now(job) == following:
        return Turn(left)
    pencil_state(ledger, number, following)
    # A stand-in PC is as its book says: nobody has to lend a hand.
    real = job.pc.kind is PcKind.REAL
    by_hand = real and any(one.by_hand for one in switching.planned(ledger, number))
    return Turn(left, by_hand=by_hand, to_switch=not by_hand)


def pencil_state(ledger: Ledger, number: int, wanted: State) -> None:
    """Pencil what brings a job's PC to a state of the book.

    Raises:
        Refused: something else is pencilled.
    """
    job = read_job(ledger, number)
    changes = changes_to(job, wanted)
    if job.pencilled is not None:
        if job.pencilled.changes != changes:
            raise Refused(TroubleCode.PENCILLED_ALREADY)
    elif changes:
        postings.pencil(ledger, number, changes)


def play_turn(ledger: Ledger, number: int) -> Turn:
    """Take the next turn of a job's stand-in PC and record its boot; returns what is left then.

    Raises Trouble; what was recorded until then is in the book.
    """
    from plucky_ledger.standin.simulated_pc import RECORD_SECONDS
    from plucky_ledger.usecases.recording.stand_ins import stand_in_of

    turn = take_turn(ledger, number)
    if not turn.left:
        return turn
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "boot.jsonl.gz"
        pc = replace(stand_in_of(read_job(ledger, number)), speed=AT_ONCE)
        pc.record(path, RECORD_SECONDS, lambda _lines: None, lambda: True)
        import_recording(ledger, number, path, pc.which)
    left = turns_left(read_job(ledger, number))
    if not left:
        end_turns(ledger, number)
    return Turn(left)
