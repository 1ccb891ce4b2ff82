"""What to do next on a job: one step, from the state of its book."""

from dataclasses import dataclass, replace
from enum import StrEnum

from plucky_ledger.core.book.book import keep_book
from plucky_ledger.core.book.turns import next_turn, turns_for, turns_left
from plucky_ledger.core.boots.boot import starts_in
from plucky_ledger.core.job.job import Job, restart_due
from plucky_ledger.core.job.noticed import outside_of, reappeared_entries
from plucky_ledger.core.job.pc_states import states_of
from plucky_ledger.core.statistics.sample_size import FEWEST_BOOTS
from plucky_ledger.core.values.measures import Measure


class NextStepKind(StrEnum):
    """The kinds of next step."""

    RECORD_OPENING = "record_opening"
    DECIDE = "decide"
    POST = "post"
    RESTART = "restart"
    DRIFT = "drift"
    """Something that was switched off started all the same."""
    TURN = "turn"
    """The next boot of those taken in turns."""
    TAKE_TURNS = "take_turns"
    """The host drifts: boots of both states are to be taken in turns."""
    OUTSIDE = "outside"
    """Something changed without being posted, and is not in the book yet."""
    RECORD_MORE = "record_more"
    STATE = "state"


@dataclass(frozen=True)
class NextStep:
    """The step and how many of what it is about (boots or changes)."""

    step: NextStepKind
    count: int = 0


def next_step(job: Job, measure: Measure) -> NextStep:
    """The next step on a job whose book is kept in ``measure``."""
    posted = job.last_posted
    opens = posted is None or posted.opens_visit
    now = job.postings.index(posted) + 1 if posted is not None else 0
    boots = len(starts_in(states_of(job).boots(job, now)))
    if opens and boots < FEWEST_BOOTS and job.pencilled is None:
        return NextStep(NextStepKind.RECORD_OPENING, FEWEST_BOOTS - boots)
    if job.pencilled is not None:
        return NextStep(NextStepKind.POST, len(job.pencilled.changes))
    if restart_due(job):
        return NextStep(NextStepKind.RESTART)
    if came_back := reappeared_entries(job):
        return NextStep(NextStepKind.DRIFT, len(came_back))
    if outside := outside_of(job):
        return NextStep(NextStepKind.OUTSIDE, len(outside.changed))
    if next_turn(job) is not None:
        return NextStep(NextStepKind.TURN, turns_left(job))
    if opens:
        return NextStep(NextStepKind.DECIDE)
    return _more_boots(job, measure, boots)


def _more_boots(job: Job, measure: Measure, boots: int) -> NextStep:
    """Whether the newest posting has been measured often enough."""
    if boots < FEWEST_BOOTS:
        return NextStep(NextStepKind.RECORD_MORE, FEWEST_BOOTS - boots)
    posted = job.last_posted
    lines = keep_book(job, measure).lines
    at = next(index for index, line in enumerate(lines) if line.posting is posted)
    line = lines[at]
    if line.shift is not None and (line.shift.drifts or line.shift.more_before):
        turns = turns_for(job, measure, at)
        if turns is not None and job.turns is None:
            return NextStep(NextStepKind.TAKE_TURNS, turns_left(replace(job, turns=turns)))
    if line.shift is not None and line.shift.more_boots and not line.shift.more_before:
        return NextStep(NextStepKind.RECORD_MORE, line.shift.more_boots)
    return NextStep(NextStepKind.STATE)
