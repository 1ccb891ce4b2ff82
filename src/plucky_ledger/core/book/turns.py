"""Alternating boots of two states (A B B A), so that drift of the host affects both alike."""

from dataclasses import replace

from plucky_ledger.core.book.book import keep_book
from plucky_ledger.core.boots.boot import Boot, starts_in
from plucky_ledger.core.job.changes import Change, undoing
from plucky_ledger.core.job.job import Job, State, Turns
from plucky_ledger.core.job.pc_states import PcStates, factors_of, states_of
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.core.values.reasons import Reason, ReasonCode

PAIRS = 2
"""How many more boots each state gets when turns begin."""
LEAST_BOOTS = 4
"""And how many it has in all then at least."""


def turns_for(job: Job, measure: Measure, line: int) -> Turns | None:
    """Turns of the states that a line of the book compares; None where it compares none, or the PC
    cannot be brought back to the earlier one.
    """
    lines = keep_book(job, measure).lines
    compared = lines[line].compared_with if 0 < line < len(lines) else None
    if compared is None:
        return None
    states = states_of(job)
    pair = (states.of_round[compared], states.of_round[line])
    if not all(_can_be_reached(job, states, state) for state in pair):
        return None
    first, second = (len(_starts(job, states, state)) for state in pair)
    return Turns(pair, (first, second), max(PAIRS, LEAST_BOOTS - min(first, second)))


def why_no_turns(job: Job, measure: Measure, line: int) -> Reason | None:
    """Why boots cannot be taken in turns of what a line compares; None where they can."""
    if turns_for(job, measure, line) is not None:
        return None
    lines = keep_book(job, measure).lines
    compared = 0 < line < len(lines) and lines[line].compared_with is not None
    return Reason(ReasonCode.CANNOT_GO_BACK if compared else ReasonCode.NOTHING_IS_COMPARED)


def _can_be_reached(job: Job, states: PcStates, state: State) -> bool:
    """Whether only what can be changed here differs from how the PC is now."""
    movable = {factor.key for factor in factors_of(job) if factor.change is not None}
    return (states.now(job) ^ state) <= movable


def next_turn(job: Job) -> State | None:
    """The state of the next boot to be recorded; None when both have enough, or there are no turns.

    The one with fewer since turns were begun; where both have as many, that of the last boot, which
    is the state the PC is in: B A A B B A A B.
    """
    if job.turns is None or not turns_left(job):
        return None
    first, second = _since(job, job.turns)
    if first != second:
        return job.turns.states[0] if first < second else job.turns.states[1]
    now = states_of(job).now(job)
    return now if now in job.turns.states else job.turns.states[1]


def turns_left(job: Job) -> int:
    """How many boots are still to be recorded."""
    if job.turns is None:
        return 0
    return sum(max(0, job.turns.boots - boots) for boots in _since(job, job.turns))


def _since(job: Job, turns: Turns) -> tuple[int, int]:
    """Boots of each state since turns were begun."""
    states = states_of(job)
    first, second = (
        len(_starts(job, states, state)) - had
        for state, had in zip(turns.states, turns.had, strict=True)
    )
    return first, second


def _starts(job: Job, states: PcStates, state: State) -> tuple[Boot, ...]:
    return starts_in(states.boots_in(job, state))


def changes_to(job: Job, wanted: State) -> tuple[Change, ...]:
    """What has to be changed to bring a job's PC from where it is to a state."""
    now = states_of(job).now(job)
    changes = []
    for factor in factors_of(job):
        if factor.change is None:
            continue
        if factor.key in now and factor.key not in wanted:
            replaced = any(key[0] == factor.key[0] for key in wanted - now)
            if not (replaced and factor.change.entry_id):
                changes.append(undoing(replace(factor.change, outside=False)))
        elif factor.key in wanted and factor.key not in now:
            changes.append(replace(factor.change, outside=False))
    return tuple(changes)
