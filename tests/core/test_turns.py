"""Boots in turns: which state comes next, when they are over, and when they cannot be."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plucky_ledger.core.book.next_step import NextStepKind, next_step
from plucky_ledger.core.book.turns import changes_to, next_turn, turns_for, turns_left
from plucky_ledger.core.boots.boot import Boot, Context, How
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.job.changes import Change, ChangeKind
from plucky_ledger.core.job.job import Card, Job
from plucky_ledger.core.job.pc_states import states_of
from plucky_ledger.core.job.postings import Posting
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.values.measures import Measure, Reading

START = datetime(2026, 11, 2, 8, 0, tzinfo=UTC)
OFF = Change(
    kind=ChangeKind.STARTUP_ENTRY,
    what="bell",
    why="",
    entry_id="bell",
    new_state=EntryState.OFF,
    old_state=EntryState.ON,
)
SWAP = Change(kind=ChangeKind.SWAP, what="8 GB of swap")


def boots(first, count, seconds=60.0, kernel=6.0):
    return tuple(
        Boot(
            number=first + index,
            started_at=START + timedelta(hours=first + index),
            how=How.RECORDED,
            readings={Measure.SETTLED: Reading(seconds + index / 5)},
            context=Context(controls={"kernel stage": kernel}),
        )
        for index in range(count)
    )


def job_of(opening=3, later=3, seconds=50.0, **how):
    posting = Posting(
        number=1, changes=(OFF, SWAP), posted_at=START, boots=boots(10, later, seconds, **how)
    )
    return Job(
        number=1,
        card=Card("0001", "PC"),
        facts=Facts(),
        taken_in_at=START,
        opening_boots=boots(0, opening),
        postings=(posting,),
    )


def brought_to(job, state):
    """The PC in another state, and one boot of it."""
    number, changes = len(job.postings) + 1, changes_to(job, state)
    done = sum(map(len, job.rounds))
    if not changes:
        *rest, last = job.postings
        return replace(
            job, postings=(*rest, replace(last, boots=(*last.boots, *boots(50 + done, 1))))
        )
    posting = Posting(number=number, changes=changes, posted_at=START, boots=boots(50 + done, 1))
    return replace(job, postings=(*job.postings, posting))


@pytest.mark.parametrize(
    ("opening", "later", "taken"), [(3, 3, "BAAB"), (1, 1, "BAABBA"), (5, 3, "BAAB")]
)
def test_turns_go_to_and_fro_with_as_few_changes_as_can_be(opening, later, taken):
    job = job_of(opening, later)
    job = replace(job, turns=turns_for(job, Measure.SETTLED, 1))
    assert turns_left(job) == len(taken)
    sequence = ""
    while (wanted := next_turn(job)) is not None:
        sequence += "AB"[job.turns.states.index(wanted)]
        job = brought_to(job, wanted)
        assert states_of(job).now(job) == wanted
    assert sequence == taken
    assert next_step(job, Measure.SETTLED).step is not NextStepKind.TURN


@given(st.lists(st.booleans(), max_size=6))
def test_a_boot_in_the_wrong_state_is_made_up_for(strays):
    """Whatever is recorded in between, both have as many in the end, and it comes to an end."""
    job = job_of()
    job = replace(job, turns=turns_for(job, Measure.SETTLED, 1))
    for stray in strays:
        job = brought_to(job, job.turns.states[int(stray)])
    for _ in range(turns_left(job)):
        job = brought_to(job, next_turn(job))
    assert next_turn(job) is None


def test_a_visit_or_a_line_that_compares_nothing_has_no_turns():
    job = job_of()
    assert turns_for(job, Measure.SETTLED, 0) is None
    assert turns_for(job, Measure.READY, 1) is None
    visit = Posting(number=2, changes=(), posted_at=START, boots=boots(30, 3), opens_visit=True)
    assert turns_for(replace(job, postings=(*job.postings, visit)), Measure.SETTLED, 2) is None


def test_turns_propose_themselves_where_the_machine_moved():
    steady, moved = job_of(), job_of(seconds=52.0, kernel=4.8)
    assert next_step(steady, Measure.SETTLED).step is not NextStepKind.TAKE_TURNS
    step = next_step(moved, Measure.SETTLED)
    assert (step.step, step.count) == (NextStepKind.TAKE_TURNS, 4)
    begun = replace(moved, turns=turns_for(moved, Measure.SETTLED, 1))
    step = next_step(begun, Measure.SETTLED)
    assert (step.step, step.count) == (NextStepKind.TURN, 4)
