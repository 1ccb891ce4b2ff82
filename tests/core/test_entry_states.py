"""How entries are set after what was posted, and what that says was decided."""

from datetime import UTC, datetime, timedelta

from hypothesis import given
from hypothesis import strategies as st

from plucky_ledger.core.book.measured_effects import measured_effects
from plucky_ledger.core.boots.boot import Boot, How
from plucky_ledger.core.entries.decisions import Decided, Decision
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.job.changes import Change, ChangeKind
from plucky_ledger.core.job.entry_states import (
    DECISION_OF,
    STATE_OF,
    decisions_of,
    entry_states,
    pencilled_states,
)
from plucky_ledger.core.job.job import Card, Job, changes_in_force
from plucky_ledger.core.job.postings import Posting
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.values.measures import Measure, Reading

START = datetime(2026, 11, 2, 8, 0, tzinfo=UTC)
ENTRIES = ("foghorn", "brassrail", "tideclock")


def change(entry_id, state):
    return Change(
        kind=ChangeKind.STARTUP_ENTRY,
        what=entry_id,
        why="because",
        entry_id=entry_id,
        new_state=state,
    )


changes = st.builds(change, st.sampled_from(ENTRIES), st.sampled_from(EntryState))


@st.composite
def histories(draw) -> Job:
    """Postings that set entries, the last perhaps only pencilled."""
    listed = draw(st.lists(st.lists(changes, min_size=1, max_size=3), max_size=5))
    pencilled = draw(st.booleans())
    when = [START + timedelta(hours=number) for number in range(len(listed))]
    if pencilled and when:
        when[-1] = None
    postings = tuple(
        Posting(number=number, changes=tuple(done), posted_at=at)
        for number, (done, at) in enumerate(zip(listed, when, strict=True), 1)
    )
    return Job(
        number=1,
        card=Card("0001", "PC"),
        facts=Facts(),
        taken_in_at=START,
        opening_boots=(),
        postings=postings,
    )


@given(histories())
def test_what_was_posted_last_stands(job):
    states = entry_states(job)
    for entry in ENTRIES:
        set_to = [
            one.new_state
            for posting in job.postings
            if posting.posted_at is not None
            for one in posting.changes
            if one.entry_id == entry
        ]
        assert states.get(entry) == (set_to[-1] if set_to else None)
    pencilled = pencilled_states(job)
    assert bool(pencilled) is (job.pencilled is not None)


@given(histories())
def test_what_was_only_posted_counts_as_decided(job):
    decided = decisions_of(job, {})
    set_somehow = {**entry_states(job), **pencilled_states(job)}
    decisions = {entry: one.decision for entry, one in decided.items()}
    assert decisions == {entry: DECISION_OF[state] for entry, state in set_somehow.items()}


@given(histories(), st.sampled_from(ENTRIES), st.sampled_from(Decision))
def test_a_posting_never_loses_to_a_decision_that_says_otherwise(job, entry, decision):
    written = {
        entry: Decided(
            entry_id=entry,
            decision=decision,
            decided_at=START,
            reason="said before",
            finding="found out",
        )
    }
    now = decisions_of(job, written)[entry]
    state = {**entry_states(job), **pencilled_states(job)}.get(entry, EntryState.ON)
    assert STATE_OF[now.decision] is STATE_OF[DECISION_OF[state]]
    assert now.finding == "found out"


def boot(number, settled):
    return Boot(
        number=number,
        started_at=START + timedelta(minutes=number),
        how=How.RECORDED,
        readings={Measure.SETTLED: Reading(settled)},
    )


def test_an_effect_is_an_entrys_own_only_where_it_was_changed_alone():
    def posting(number, *done, settled, strikes_out=None):
        boots = tuple(boot(number * 10 + i, settled + i / 10) for i in range(3))
        when = START + timedelta(hours=number)
        return Posting(
            number=number, changes=done, posted_at=when, strikes_out=strikes_out, boots=boots
        )

    off = [change(entry, EntryState.OFF) for entry in ENTRIES]
    opening = tuple(boot(i, 60.0 + i / 10) for i in range(3))
    postings = (
        posting(1, off[0], settled=50.0),
        posting(2, off[1], off[2], settled=40.0),
        posting(3, change(ENTRIES[0], EntryState.ON), settled=50.0, strikes_out=1),
    )
    job = Job(
        number=1,
        card=Card("0001", "PC"),
        facts=Facts(),
        taken_in_at=START,
        opening_boots=opening,
        postings=postings,
    )
    effects = measured_effects(job)
    assert round(effects[ENTRIES[0]].saved_seconds) == 10
    assert effects[ENTRIES[0]].put_back
    assert effects[ENTRIES[1]].saved_seconds is None
    assert not effects[ENTRIES[1]].put_back
    assert {one.entry_id for one in changes_in_force(job)} == set(ENTRIES[1:])
