"""Where a comparison of rounds could be sure and wrong: lines, odd boots, controls, few boots.

All of it goes the product's own way, from boots in their order to the words of the verdict.
"""

import math

import numpy as np
import pytest

from plucky_ledger.core.book.next_step import NextStepKind, next_step
from plucky_ledger.core.book.verdict import DECIDED, Verdict
from plucky_ledger.core.boots.work import Worked
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.core.values.reasons import ReasonCode
from plucky_ledger.pages.verdict import verdict_page
from plucky_ledger.wording.verdict import (
    answer,
    basis,
    comparability_in_words,
    decides,
    row_shift,
    to_decide,
    went_wrong,
)
from tests.core.rounds_in_order import compared, job_of
from tests.helpers.runs import real_boot

NORMAL = 0.03


def page_of(before, after, measure=Measure.SETTLED, kernel=()):
    return verdict_page(job_of([("A", before), ("B", after)], measure, kernel), measure, 1)


def normal(rng, boots):
    return NORMAL * rng.standard_normal(boots)


def saw_tooth(rng, boots):
    """Caches are built anew after a change."""
    return 0.01 * rng.standard_normal(boots) + np.pad([0.04, 0.02], (0, boots))[:boots]


def warming(rng, boots):
    """A PC that warms with every boot, and cools while the technician changes something."""
    return 0.005 * rng.standard_normal(boots) + 0.01 * np.arange(boots)


def sometimes_quick(rng, boots):
    quick = rng.random(boots) < 0.1
    return normal(rng, boots) - np.where(quick, rng.uniform(0.05, 0.3, boots), 0)


@pytest.mark.parametrize("family", [normal, saw_tooth, warming, sometimes_quick])
def test_looked_at_after_every_boot_nothing_is_stamped_that_did_not_change(family):
    """The whole study is a benchmark. Here the stamps that three standard errors allow."""
    rng, false, sessions = np.random.default_rng(7), 0, 60
    for _ in range(sessions):
        before, after = (60 * np.exp(family(rng, 10)) for _ in range(2))
        shifts = (compared([("A", before[:n]), ("B", after[:n])]) for n in range(3, 11))
        first = next((s for s in shifts if s.verdict is not Verdict.UNPROVEN), None)
        false += first is not None and first.verdict in DECIDED
    assert false / sessions <= 0.05 + 3 * math.sqrt(0.05 * 0.95 / sessions)


def test_a_line_in_rounds_one_after_the_other_is_no_proof_and_turns_are_advised():
    page = page_of([61.5, 60.4, 59.5], [61.2, 60.3, 59.2])
    shift = page.shift
    assert shift.low < 0 < shift.high
    assert shift.low < shift.estimate < shift.high
    assert shift.reason.code is ReasonCode.LINE_OR_STEP
    assert "may or may not" in answer(page).sentence
    assert "states in turns" in basis(page)
    assert decides(page) == "Take boots in turns"


def test_in_turns_a_line_is_taken_out_and_no_turns_are_advised():
    """A host that gets slower by two per cent with every boot."""
    figures = 60 * 1.02 ** np.arange(8)
    rounds = [("A", figures[:1])]
    for letter, first, last in (("B", 1, 3), ("A", 3, 5), ("B", 5, 7), ("A", 7, 8)):
        rounds.append((letter, figures[first:last]))
    page = verdict_page(job_of(rounds), Measure.SETTLED, 1)
    assert page.shift.in_turns
    assert page.shift.verdict is Verdict.EVEN
    assert not page.shift.drifts
    slower = [("A", [60.0]), ("B", [59, 61.5]), ("A", [62.5, 60]), ("B", [64, 63]), ("A", [67.0])]
    assert not compared(slower).drifts


USUAL = [54.8, 55.5, 54.7, 55.1, 54.9]


@pytest.mark.parametrize(
    ("before", "after", "odd"),
    [
        (USUAL, [55.1, 44.0, 54.9, 43.8, 55.3], [1, 3]),
        (USUAL, [44.1, 44.0, 54.9, 43.8, 55.3], []),
        (USUAL, [44.1, 45.8, 54.9, 43.8, 55.0], []),
        ([12.8, 12.9, 12.6], [13.0, 2.97, 12.7], [1]),
        (USUAL, [55.1, 54.0, 54.9, 80.8, 55.3], [3]),
    ],
)
def test_boots_that_went_wrong_are_the_exception(before, after, odd):
    """Quick ones too: a guest signed in, an entry failed to start."""
    page = page_of(before, after)
    assert page.shift.verdict is not Verdict.SAVED
    named = [place for place, chance in enumerate(page.shift.wrong[1]) if chance > 0.5]
    assert named == odd
    assert ("after" in went_wrong(page)) == bool(odd)
    if not odd:
        assert "odd boots" not in basis(page)


def test_the_sentence_and_the_row_follow_the_estimate():
    """The typical boots differ by more than the boots do, once the odd one counts for less."""
    page = page_of([60.0, 60.2, 59.9, 60.1], [50.0, 75.0, 50.2])
    assert page.shift.low < page.shift.estimate < page.shift.high
    amount = f"{-page.shift.estimate:.1f}"
    assert f"{amount} s sooner" in answer(page).sentence
    (row,) = [row for row in page.rows if row.measure is Measure.SETTLED]
    assert f"{amount} (" in row_shift(row)
    assert "odd boots count for less" in basis(page)


def test_two_boots_may_be_enough_of_what_is_held_at_rest():
    five, two = [2004, 1998, 2001, 1996, 2003], [1801, 1797]
    assert page_of(five, two, Measure.MEMORY_HELD).shift.verdict is Verdict.SAVED
    assert page_of(five[:4], two, Measure.MEMORY_HELD).shift.verdict is Verdict.UNPROVEN
    assert page_of(five, two, Measure.CPU_WORK).shift.verdict is Verdict.UNPROVEN


def test_load_at_rest_is_brought_to_the_machines_speed():
    """A host half as fast again keeps an idle PC less busy."""
    slow, quick = [9.1, 9.0, 9.2, 8.9, 9.1], [7.1, 7.2, 7.0, 7.1, 7.2]
    kernel = [*[6.0, 6.1, 5.9, 6.0, 6.05], *[4.0, 4.1, 3.9, 4.0, 4.05]]
    assert compared([("A", slow), ("B", quick)], Measure.LOAD_AT_REST).verdict is Verdict.SAVED
    page = page_of(slow, quick, Measure.LOAD_AT_REST, kernel)
    assert page.shift.verdict is Verdict.UNPROVEN
    assert "the PC's own speed is taken out" in basis(page)


def test_the_side_that_is_short_is_named_and_gets_what_helps():
    """Recording on, in the later state, would ask for one more boot for ever."""
    for later in ([50.1, 50.4, 49.8], [50.1, 50.4, 49.8, 50.0, 50.2]):
        job = job_of([("A", [60.0, 60.4]), ("B", later)])
        page = verdict_page(job, Measure.SETTLED, 1)
        assert "1 more boot before for settled" in to_decide(page)
        assert decides(page) == "Take boots in turns"
        assert next_step(job, Measure.SETTLED).step is NextStepKind.TAKE_TURNS
    page = verdict_page(job_of([("A", USUAL), ("B", later[:2])]), Measure.SETTLED, 1)
    assert "1 more boot for settled" in to_decide(page)
    assert decides(page) == "Record…"


@pytest.mark.parametrize(
    ("kernel", "said"),
    [
        ((0.4, 0.9, 0.5, 0.3, 0.25, 0.5), "scatters by"),
        ((4.0, 5.0, 4.0, 3.0, 4.0, 3.0), "too short"),
        ((0.011, 0.012, 0.011, 0.008, 0.007, 0.008), "too short"),
    ],
)
def test_a_control_that_is_not_worth_it_is_left_out_and_that_is_said(kernel, said):
    page = page_of([11.5, 11.6, 11.4], [7.0, 7.1, 6.9], kernel=kernel)
    assert page.shift.verdict is Verdict.SAVED
    assert page.shift.drift is None
    words = comparability_in_words(page)
    assert said in words
    assert ReasonCode.MACHINE_DRIFTED not in {reason.code for reason in page.concerns}


BEFORE, AFTER = [64.2, 64.0, 64.4], [59.7, 59.9, 59.6]
DESK = Worked(name="Desk", entry_id="desk.desktop", cpu_seconds=9.0)
UPDATE = Worked(name="storekeep-update", cpu_seconds=12.0)
OF_THE_CHANGE = Worked(name="B", entry_id="B", cpu_seconds=3.0)
ASKED_FOR = Worked(name="Helper", entry_id="helper.service", cpu_seconds=12.0, by_itself=False)


def with_work(*sides):
    worked = [one for side in sides for one in side]
    job = job_of([("A", BEFORE), ("B", AFTER)], worked=worked)
    return verdict_page(job, Measure.SETTLED, 1)


@pytest.mark.parametrize(
    ("before", "after", "stamped", "named"),
    [
        ([[DESK, UPDATE]] * 3, [[DESK]] * 3, False, True),  # an updater nobody knows by name
        ([[DESK]] * 3, [[DESK, UPDATE]] * 3, True, True),  # it was saved in spite of it
        ([[DESK, UPDATE._replace(cpu_seconds=3.0)]] * 3, [[DESK]] * 3, True, True),
        ([[DESK, UPDATE], [DESK], [DESK, UPDATE]], [[DESK]] * 3, True, False),
        ([[DESK, OF_THE_CHANGE]] * 3, [[DESK]] * 3, True, False),
        ([[DESK, ASKED_FOR]] * 3, [[DESK]] * 3, True, False),
        ([[DESK, UPDATE]] * 3, [[]] * 3, True, False),  # nobody was watched after
        ([[DESK, UPDATE], [DESK, UPDATE], []], [[DESK], [DESK], []], False, True),  # two were
        ([[DESK, UPDATE], [], []], [[DESK]] * 3, True, False),  # of one nobody can say "in all"
    ],
)
def test_who_worked_on_one_side_alone_is_named_and_what_they_explain_is_not_stamped(
    before, after, stamped, named
):
    page = with_work(before, after)
    assert (page.shift.verdict is Verdict.SAVED) is stamped
    words = comparability_in_words(page)
    assert ("storekeep-update worked for" in words and "not part of this change" in words) is named
    if not stamped:
        assert "storekeep-update worked on one side only" in basis(page)
        assert "may or may not" in answer(page).sentence


def test_who_worked_is_kept_with_a_recorded_boot():
    """By itself is what its manager starts, and what nobody knows of; not what others ask for."""
    boot = real_boot("baseline-01").boot
    worked = {one.entry_id or one.name: one for one in boot.context.worked}
    assert worked["brassbell-notifier.desktop"].by_itself
    imported = worked["harborledger-import.service"]
    assert imported.cpu_seconds > 3
    assert not imported.by_itself  # this recording does not say how it is set
    assert not [name for name in worked if name.startswith("kworker")]
    # Half a second is worth being kept; later work only from three times as much.
    assert min(max(one.cpu_seconds, one.later_cpu_seconds / 3) for one in worked.values()) >= 0.5
    assert min(one.cpu_seconds for one in worked.values()) < 0.6
    total = sum(one.cpu_seconds for one in boot.context.worked)
    assert 0.7 < total / boot.readings[Measure.CPU_WORK].value <= 1.05
