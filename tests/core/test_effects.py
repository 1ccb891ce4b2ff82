"""Which change did it: effects, what is tangled, and the next restart worth making."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta

import numpy as np
import pytest

from plucky_ledger.core.book.effects import effects_of
from plucky_ledger.core.book.turns import changes_to
from plucky_ledger.core.boots.boot import Boot, How
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.job.changes import Change, ChangeKind
from plucky_ledger.core.job.job import Card, Job
from plucky_ledger.core.job.pc_states import key_of, states_of
from plucky_ledger.core.job.postings import Posting
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.values.measures import Measure, Reading
from tests.core.rounds_in_order import job_of

START = datetime(2026, 11, 2, 8, 0, tzinfo=UTC)
NAMES = ("bell", "horn", "quay", "rope", "tide", "winch")
EFFECTS = dict(zip(NAMES, (-0.16, -0.08, 0.03, 0.0, -0.05, -0.11), strict=True))


def off(name):
    return Change(
        kind=ChangeKind.STARTUP_ENTRY,
        what=name,
        why="",
        entry_id=name,
        new_state=EntryState.OFF,
        old_state=EntryState.ON,
    )


KEYS = {name: key_of(off(name)) for name in NAMES}


def true_effect(effect, name, level):
    """What a change really does where the PC is."""
    share = EFFECTS[name]
    return level * ((1 - np.exp(-share)) if effect.in_force else (np.exp(share) - 1))


class Bench:
    """A PC whose changes do what EFFECTS says, brought from state to state."""

    def __init__(self, names, seed=1, noise=0.01):
        self.names, self.noise = names, noise
        self.rng = np.random.default_rng(seed)
        self.job = Job(
            number=1,
            card=Card("0001", "PC"),
            facts=Facts(),
            taken_in_at=START,
            opening_boots=self.boots(frozenset(), 3),
        )
        self.go_to(frozenset(KEYS[name] for name in names), 3)

    def boots(self, state, count):
        level = 60 * np.exp(sum(EFFECTS[name] for name in self.names if KEYS[name] in state))
        done = sum(map(len, self.job.rounds)) if hasattr(self, "job") else 0
        return tuple(
            Boot(
                number=done + index,
                started_at=START + timedelta(hours=done + index),
                how=How.RECORDED,
                readings={
                    Measure.SETTLED: Reading(
                        float(level * np.exp(self.noise * self.rng.standard_normal()))
                    )
                },
            )
            for index in range(count)
        )

    def go_to(self, state, count=1):
        if not self.job.postings:
            changes = tuple(off(name) for name in self.names if KEYS[name] in state)
        else:
            changes = changes_to(self.job, state)
        number = len(self.job.postings) + 1
        posting = Posting(
            number=number, changes=changes, posted_at=START, boots=self.boots(state, count)
        )
        self.job = Job(
            number=1,
            card=self.job.card,
            facts=Facts(),
            taken_in_at=START,
            opening_boots=self.job.opening_boots,
            postings=(*self.job.postings, posting),
        )
        assert states_of(self.job).of_round[-1] == state

    def level(self):
        """Where the PC truly is."""
        now = states_of(self.job).of_round[-1]
        return 60 * np.exp(sum(EFFECTS[name] for name in self.names if KEYS[name] in now))

    def effects(self):
        return effects_of(self.job, Measure.SETTLED)


@pytest.mark.parametrize("count", [2, 3, 4, 5, 6])
def test_greedy_restarts_tell_them_apart_one_fewer_than_there_are(count):
    """Putting them back one by one would take as many, and be far less exact."""
    bench = Bench(NAMES[:count])
    found = bench.effects()
    assert found.restarts_left == count - 1
    assert {effect.tangled for effect in found.effects} == {
        tuple(other for other in range(count) if other != place) for place in range(count)
    }
    assert all(effect.value is None for effect in found.effects)
    for left in reversed(range(count - 1)):
        bench.go_to(bench.effects().next_state)
        assert bench.effects().restarts_left == left
    assert not any(effect.tangled for effect in bench.effects().effects)


def test_effects_are_what_the_changes_do_with_intervals_that_hold_them():
    held = asked = 0
    widths = []
    for seed in range(25):
        bench = Bench(NAMES[:4], seed)
        for _ in range(7):
            bench.go_to(bench.effects().next_state)
        level = bench.level()
        for effect, name in zip(bench.effects().effects, NAMES, strict=False):
            wanted = true_effect(effect, name, level)
            asked += 1
            held += effect.low <= wanted <= effect.high
            widths.append((effect.high - effect.low) / (bench.noise * level))
            assert effect.value == pytest.approx(wanted, abs=2.5)
            assert effect.boots_with + effect.boots_without == 13
    assert held / asked > 0.95 - 3 * 0.022
    assert 2.0 < np.median(widths) < 4.0  # in spreads of one boot: no wider than they need be


def test_an_entry_has_one_setting_in_a_state():
    later = Change(
        kind=ChangeKind.STARTUP_ENTRY,
        what="bell",
        why="",
        entry_id="bell",
        new_state=EntryState.LATER,
        old_state=EntryState.OFF,
    )
    bench = Bench(NAMES[:1])
    posting = Posting(
        number=2, changes=(later,), posted_at=START, boots=bench.boots(frozenset(), 1)
    )
    bench.job = Job(
        number=1,
        card=bench.job.card,
        facts=Facts(),
        taken_in_at=START,
        opening_boots=bench.job.opening_boots,
        postings=(*bench.job.postings, posting),
    )
    found = bench.effects()
    assert [effect.in_force for effect in found.effects] == [False, True]
    assert len(found.next_state) <= 1
    back = changes_to(bench.job, frozenset({KEYS["bell"]}))
    assert [(change.new_state, change.put_back) for change in back] == [(EntryState.OFF, False)]
    (undone,) = changes_to(bench.job, frozenset())
    assert undone.put_back


def test_without_a_change_there_is_nothing_to_tell():
    job = Job(number=1, card=Card("0001", "PC"), facts=Facts(), taken_in_at=START)
    assert effects_of(job, Measure.SETTLED).effects == ()


def test_two_ways_of_switching_an_entry_off_are_one_change():
    bench = Bench(NAMES[:2])
    for_good = replace(off("bell"), new_state=EntryState.OFF_FOR_GOOD, old_state=EntryState.OFF)
    posting = Posting(number=2, changes=(for_good,), posted_at=START, boots=bench.boots(ALL_OFF, 3))
    bench.job = replace(bench.job, postings=(*bench.job.postings, posting))
    found = bench.effects()
    assert [effect.factor.change.entry_id for effect in found.effects] == ["bell", "horn"]
    assert [effect.boots_with for effect in found.effects] == [6, 6]
    bench.job = replace(bench.job, postings=(*bench.job.postings, back_on(bench)))
    assert [effect.boots_with for effect in bench.effects().effects] == [6, 7]


ALL_OFF = frozenset(KEYS[name] for name in NAMES[:2])


def back_on(bench):
    on = replace(off("bell"), new_state=EntryState.ON, old_state=EntryState.OFF_FOR_GOOD)
    boots = bench.boots(ALL_OFF - {KEYS["bell"]}, 1)
    return Posting(number=3, changes=(on,), posted_at=START, boots=boots)


def test_load_at_rest_is_brought_to_one_speed_in_proportion():
    """It is told in steps, not on the logarithm: a host half as fast again makes no effect."""
    slow, quick = [9.1, 9.0, 9.2, 8.9], [7.1, 7.2, 7.0, 7.1]
    kernel = [*[6.0, 6.1, 5.9, 6.0], *[4.0, 4.1, 3.9, 4.0]]
    job = job_of([("A", slow), ("B", quick)], Measure.LOAD_AT_REST, kernel)
    (effect,) = effects_of(job, Measure.LOAD_AT_REST).effects
    assert effect.low < 0 < effect.high
    assert abs(effect.value) < 0.6
