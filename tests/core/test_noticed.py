"""What changed without being posted, what came back, and the next step in every state of a book."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pytest

from plucky_ledger.core.book.next_step import NextStepKind, next_step
from plucky_ledger.core.book.plans import PlanHeld, plans_held, widened, width_factor
from plucky_ledger.core.boots.boot import Boot, Context, How
from plucky_ledger.core.boots.timeline import Activity
from plucky_ledger.core.entries.entry import EntryKind, EntryOwner, StartupEntry
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.job.changes import Change, ChangeKind
from plucky_ledger.core.job.inventory import came_back, inventory_of, unposted_changes
from plucky_ledger.core.job.job import Card, Job, changes_in_force, state_of
from plucky_ledger.core.job.noticed import Outside, change_of, outside_of, reappeared_entries
from plucky_ledger.core.job.postings import Posting, PostingState
from plucky_ledger.core.pc.facts import Drive, DriveKind, Facts
from plucky_ledger.core.replay.startup_cost import PlanEstimate
from plucky_ledger.core.values.estimates import Estimate
from plucky_ledger.core.values.measures import Measure, Reading
from plucky_ledger.core.values.reasons import Reason, ReasonCode
from plucky_ledger.wording.reasons import reason_in_words

START = datetime(2026, 11, 2, 8, 0, tzinfo=UTC)
OFF = Reason(ReasonCode.HIDDEN)


def sign_in(name, **what):
    return StartupEntry(
        entry_id=f"{name}.desktop",
        name=name,
        owner=EntryOwner.USER,
        kind=EntryKind.SIGN_IN_PROGRAM,
        **what,
    )


def service(name, file_state):
    kind = EntryKind.SYSTEM_SERVICE
    return StartupEntry(
        entry_id=name, name=name, owner=EntryOwner.SYSTEM, kind=kind, file_state=file_state
    )


def codes(reasons):
    return {(reason.code, reason.facts.get("name", "")) for reason in reasons}


def test_what_changed_since_the_last_inventory_is_noticed():
    """Of services only what is switched on or off for certain: others come and go."""
    drives = (Drive("sda", DriveKind.ROTATING, 500, 10),)
    before = inventory_of(
        [
            sign_in("bell", package="bell 1"),
            sign_in("horn"),
            sign_in("rope", off_because=OFF),
            sign_in("posted"),
            service("quay.service", "enabled"),
            service("bus.service", "static"),
        ],
        Facts(memory_bytes=4, drives=drives, kernel="6.1"),
        {"bell": "1", "oil": "3", "tar": "1"},
    )
    now = inventory_of(
        [
            sign_in("bell", package="bell 2"),
            sign_in("horn", off_because=OFF),
            sign_in("rope"),
            sign_in("new"),
            service("quay.service", "disabled"),
            service("other.service", "static"),
        ],
        Facts(memory_bytes=8, drives=(replace(drives[0], free_bytes=3),), kernel="6.2"),
        {"bell": "2", "oil": "4", "rope": "1"},
    )
    assert codes(unposted_changes(before, now, {"posted.desktop": EntryState.OFF})) == {
        (ReasonCode.UPDATED, "bell"),
        (ReasonCode.SET_OFF, "horn"),
        (ReasonCode.SET_ON, "rope"),
        (ReasonCode.NEW_ENTRY, "new"),
        (ReasonCode.MEMORY_CHANGED, ""),
        (ReasonCode.KERNEL_CHANGED, ""),
        (ReasonCode.PACKAGES_CHANGED, ""),
    }
    *_, packages = unposted_changes(before, now, {})
    assert reason_in_words(packages) == (
        "1 package new, 1 package gone, 1 package updated: rope, tar, oil"
    )
    assert unposted_changes(None, now, {}) == ()
    assert unposted_changes(now, now, {}) == ()


def test_what_was_switched_off_and_starts_all_the_same_came_back():
    states = {
        "bell.desktop": EntryState.OFF,
        "horn.desktop": EntryState.OFF_HERE,
        "quay.service": EntryState.OFF,
        "need.service": EntryState.WHEN_NEEDED,
        "gone.service": EntryState.OFF_FOR_GOOD,
        "late.desktop": EntryState.LATER,
    }
    entries = [
        sign_in("bell", package="bell 2"),
        sign_in("horn", off_because=OFF),
        sign_in("late"),
        service("quay.service", "enabled"),
        service("need.service", "enabled"),
        service("gone.service", "masked"),
        sign_in("other"),
    ]
    began = [
        Activity(
            entry_id=entry.entry_id, waiting_from=1.0, starting_from=2.0, up_at=3.0, ended_at=None
        )
        for entry in entries
    ]
    before = inventory_of([sign_in("bell", package="bell 1")], Facts())
    assert codes(came_back(entries, began, states, before)) == {
        (ReasonCode.UPDATE_PUT_BACK, "bell"),
        (ReasonCode.CAME_BACK, "quay.service"),
    }
    assert came_back(entries, [], states) == ()
    # What did so much that it shows was asked for by something else, whatever its manager says.
    worked = {"gone.service", "need.service", "late.desktop"}
    assert codes(came_back(entries, [], states, worked=worked)) == {
        (ReasonCode.CAME_BACK, "gone.service")
    }


def boots(count, *noted, how=How.RECORDED, seconds=50.0):
    context = Context(noticed=noted)
    return tuple(
        Boot(
            number=100 + index,
            started_at=START + timedelta(hours=index),
            how=how,
            readings={Measure.SETTLED: Reading(seconds + index / 10)},
            context=context,
        )
        for index in range(count)
    )


def posting(number, *changes, posted=True, strikes_out=None, measured=()):
    at = START + timedelta(days=number) if posted else None
    return Posting(
        number=number, changes=changes, posted_at=at, strikes_out=strikes_out, boots=measured
    )


def visit(number, measured=()):
    at = START + timedelta(days=number)
    return Posting(number=number, changes=(), posted_at=at, boots=measured, opens_visit=True)


def off(name, **what):
    return Change(
        kind=ChangeKind.STARTUP_ENTRY,
        what=name,
        why="",
        entry_id=name,
        new_state=EntryState.OFF,
        **what,
    )


BACK = Reason(ReasonCode.CAME_BACK, {"entry": "bell", "name": "bell"})
NEW = Reason(ReasonCode.NEW_ENTRY, {"entry": "new", "name": "new"})
OPENING = boots(3)
FASTER = boots(3, seconds=40.0)


@pytest.mark.parametrize("how", [How.RECORDED, How.STOPWATCH, How.TYPED])
@pytest.mark.parametrize(
    ("opening", "postings", "step", "count"),
    [
        (0, (), NextStepKind.RECORD_OPENING, 3),
        (2, (), NextStepKind.RECORD_OPENING, 1),
        (3, (), NextStepKind.DECIDE, 0),
        (2, (posting(1, off("bell"), posted=False),), NextStepKind.POST, 1),
        (3, (posting(1, off("bell"), off("horn"), posted=False),), NextStepKind.POST, 2),
        (3, (posting(1, off("bell")),), NextStepKind.RESTART, 0),
        (3, (posting(1, off("bell"), measured=boots(1)),), NextStepKind.RECORD_MORE, 2),
        (3, (posting(1, off("bell"), measured=FASTER),), NextStepKind.STATE, 0),
        (3, (posting(1, off("bell"), measured=boots(1, BACK)),), NextStepKind.DRIFT, 1),
        (
            3,
            (posting(1, off("bell"), measured=(*boots(2, BACK), *boots(1))),),
            NextStepKind.STATE,
            0,
        ),
        (
            3,
            (posting(1, off("bell"), measured=boots(3, NEW, seconds=40.0)),),
            NextStepKind.OUTSIDE,
            1,
        ),
        (
            3,
            (
                posting(
                    1,
                    off("bell"),
                    replace(off("new"), outside=True),
                    measured=boots(3, NEW, seconds=40.0)[:1] + FASTER[1:],
                ),
            ),
            NextStepKind.STATE,
            0,
        ),
        (3, (posting(1, off("bell"), measured=FASTER), visit(2)), NextStepKind.RECORD_OPENING, 3),
        (
            3,
            (posting(1, off("bell"), measured=FASTER), visit(2, boots(2))),
            NextStepKind.RECORD_OPENING,
            1,
        ),
        (3, (posting(1, off("bell"), measured=FASTER), visit(2, boots(3))), NextStepKind.DECIDE, 0),
        (
            3,
            (
                posting(1, off("bell"), measured=FASTER),
                visit(2, boots(1)),
                posting(3, off("horn"), posted=False),
            ),
            NextStepKind.POST,
            1,
        ),
        (
            3,
            (
                posting(1, off("bell"), measured=boots(1, BACK)),
                posting(2, off("bell"), posted=False),
            ),
            NextStepKind.POST,
            1,
        ),
        (
            3,
            (posting(1, off("bell"), measured=boots(1, BACK)), posting(2, off("bell"))),
            NextStepKind.RESTART,
            0,
        ),
        (
            3,
            (
                posting(1, off("bell"), measured=FASTER),
                posting(2, off("bell", put_back=True), strikes_out=1),
            ),
            NextStepKind.RESTART,
            0,
        ),
    ],
)
def test_the_next_step_in_every_state(opening, postings, step, count, how):
    as_measured = tuple(
        replace(p, boots=tuple(replace(boot, how=how) for boot in p.boots)) for p in postings
    )
    job = Job(
        number=1,
        card=Card("0001", "PC"),
        facts=Facts(),
        taken_in_at=START,
        opening_boots=boots(opening, how=how),
        postings=as_measured,
    )
    found = next_step(job, Measure.SETTLED)
    assert found.step is step
    assert found.count == count


def test_a_reading_at_rest_is_no_boot_of_the_opening():
    job = Job(
        number=1,
        card=Card("0001", "PC"),
        facts=Facts(),
        taken_in_at=START,
        opening_boots=boots(3, how=How.AT_REST),
    )
    assert next_step(job, Measure.SETTLED).step is NextStepKind.RECORD_OPENING


def test_only_the_newest_boot_says_what_came_back_and_the_first_what_others_changed():
    measured = (*boots(1, BACK), *boots(1, BACK, NEW), *boots(1, NEW))
    job = Job(
        number=1,
        card=Card("0001", "PC"),
        facts=Facts(),
        taken_in_at=START,
        opening_boots=OPENING,
        postings=(posting(1, off("bell"), measured=measured),),
    )
    assert reappeared_entries(job) == ()
    assert outside_of(job) == Outside(measured[1], (NEW,))


def test_what_others_changed_is_not_ours_to_put_back():
    theirs = change_of(Reason(ReasonCode.SET_OFF, {"entry": "horn", "name": "Horn"}), "")
    assert (theirs.what, theirs.old_state, theirs.new_state) == (
        "Horn",
        EntryState.ON,
        EntryState.OFF,
    )
    first = posting(1, off("bell"), theirs, measured=FASTER)
    back = posting(2, replace(off("bell"), put_back=True))
    job = Job(
        number=1,
        card=Card("0001", "PC"),
        facts=Facts(),
        taken_in_at=START,
        opening_boots=OPENING,
        postings=(first,),
    )
    assert [change.entry_id for change in changes_in_force(job)] == ["bell"]
    job = replace(job, postings=(first, back))
    assert (state_of(job, first), changes_in_force(job)) == (PostingState.STRUCK_OUT, ())


def test_parts_of_a_posting_are_put_back_one_by_one():
    """It is struck out as soon as nothing of it is in force."""
    first = posting(1, off("bell"), off("horn"), measured=FASTER)
    one, other = (replace(off(name), put_back=True) for name in ("bell", "horn"))
    for back, state, in_force in (
        ((), PostingState.IN_FORCE, {"bell", "horn"}),
        ((posting(2, one),), PostingState.IN_FORCE, {"horn"}),
        ((posting(2, one), posting(3, other)), PostingState.STRUCK_OUT, set()),
        ((posting(2, one), posting(3, other, posted=False)), PostingState.IN_FORCE, {"horn"}),
        ((posting(2, one), posting(3, off("bell"))), PostingState.IN_FORCE, {"horn", "bell"}),
        ((posting(2, one, other, strikes_out=1),), PostingState.STRUCK_OUT, set()),
    ):
        job = Job(
            number=1,
            card=Card("0001", "PC"),
            facts=Facts(),
            taken_in_at=START,
            opening_boots=OPENING,
            postings=(first, *back),
        )
        assert state_of(job, first) is state
        assert {change.entry_id for change in changes_in_force(job)} == in_force


def test_plans_that_missed_widen_the_next_and_those_that_held_narrow_it():
    """A few say little."""
    expected = Estimate(40.0, 36.0, 44.0)
    held, missed = PlanHeld(expected, 40.2), PlanHeld(expected, 52.0)
    assert (held.held, missed.held) == (True, False)
    assert width_factor([]) == 1.0
    assert 0.9 < width_factor([held]) < 1.0
    assert width_factor([held] * 40) < 0.6
    assert 1.5 < width_factor([missed] * 2) < width_factor([missed] * 40) == 3.0
    job = Job(
        number=1,
        card=Card("0001", "PC"),
        facts=Facts(),
        taken_in_at=START,
        opening_boots=OPENING,
        postings=(
            replace(posting(1, off("bell"), measured=FASTER), expected={Measure.SETTLED: expected}),
            posting(2, off("horn"), measured=FASTER),
        ),
    )
    (plan,) = plans_held(job)
    assert plan.measured == pytest.approx(40.1)
    assert plan.held
    wide = widened(
        PlanEstimate(
            settled=expected,
            system_up=expected,
            saved=None,
            up_saved=expected,
            memory_bytes=0.0,
            processes=0,
        ),
        2.0,
    )
    assert (wide.settled, wide.saved) == (Estimate(40.0, 32.0, 48.0), None)
