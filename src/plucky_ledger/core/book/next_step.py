"""What to do next on a job: one step, from the state of its book."""

from dataclasses import dataclass
from enum import StrEnum

from plucky_ledger.core.book.book import keep_book
from plucky_ledger.core.book.job import Job, PostingState, state_of
from plucky_ledger.core.book.noticed import drift_of
from plucky_ledger.core.boots.boot import starts_in
from plucky_ledger.core.measures import Measure

ENOUGH_BOOTS = 3
"""Boots a round should have before it is compared."""


class Step(StrEnum):
    """The kinds of next step."""

    RECORD_OPENING = "record_opening"
    DECIDE = "decide"
    POST = "post"
    RESTART = "restart"
    DRIFT = "drift"
    """Something that was switched off started all the same."""
    RECORD_MORE = "record_more"
    STATE = "state"


@dataclass(frozen=True)
class NextStep:
    """The step and how many of what it is about (boots or changes)."""

    step: Step
    count: int = 0


def next_step(job: Job, measure: Measure) -> NextStep:
    """The next step on a job whose book is kept in ``measure``."""
    opening = len(starts_in(job.opening_boots))
    if opening < ENOUGH_BOOTS and not job.postings:
        return NextStep(Step.RECORD_OPENING, ENOUGH_BOOTS - opening)
    if job.pencilled is not None:
        return NextStep(Step.POST, len(job.pencilled.changes))
    posted = job.last_posted
    if posted is None:
        return NextStep(Step.DECIDE)
    if state_of(job, posted) is PostingState.POSTED:
        return NextStep(Step.RESTART)
    if came_back := drift_of(job):
        return NextStep(Step.DRIFT, len(came_back))
    boots = len(starts_in(posted.boots))
    if boots < ENOUGH_BOOTS:
        return NextStep(Step.RECORD_MORE, ENOUGH_BOOTS - boots)
    line = next(line for line in keep_book(job, measure).lines if line.posting is posted)
    if line.shift is not None and line.shift.more_boots is not None:
        return NextStep(Step.RECORD_MORE, line.shift.more_boots)
    return NextStep(Step.STATE)
