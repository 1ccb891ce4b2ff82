"""The verdict on two rounds."""

from dataclasses import replace
from random import Random

import numpy as np
import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from plucky_ledger.core.book.verdict import (
    STAMP_LEVEL,
    Verdict,
    beside_others,
    shift_between,
    verdict_of,
)
from plucky_ledger.core.statistics.comparison import BootPoint, estimate
from plucky_ledger.core.statistics.ranks import surely_below
from plucky_ledger.core.values.measures import Measure, Reading
from plucky_ledger.wording.reasons import reason_in_words


def rounds(*sides):
    return [[Reading(value) for value in side] for side in sides]


@pytest.mark.parametrize(
    ("before", "after", "verdict"),
    [
        ([74.1, 73.6, 74.4], [59.8, 60.3, 60.0], Verdict.SAVED),
        ([59.8, 60.3, 60.0], [74.1, 73.6, 74.4], Verdict.LOST),
        ([60.0, 60.1, 60.2, 60.1] * 2, [60.1, 60.2, 60.0, 60.1] * 2, Verdict.EVEN),
        ([60.0, 66.0, 57.0], [58.0, 63.0, 55.0], Verdict.UNPROVEN),
    ],
)
def test_four_verdicts(before, after, verdict):
    assert shift_between(Measure.SETTLED, *rounds(before, after)).verdict is verdict


def test_a_shift_nobody_would_notice_is_not_called_saved():
    """0.3 s of 60 s may be certain; it is still even."""
    shift = shift_between(Measure.SETTLED, *rounds([60.00, 60.01, 59.99], [59.70, 59.71, 59.69]))
    assert shift.high < 0
    assert shift.verdict is Verdict.EVEN


def test_one_boot_a_side_proves_nothing_by_itself():
    shift = shift_between(Measure.SETTLED, *rounds([74.0], [60.0]))
    assert (shift.verdict, shift.low) == (Verdict.UNPROVEN, None)
    assert shift.more_boots == 2


@pytest.mark.parametrize("boots", [1, 2])
def test_fewer_than_three_boots_a_side_are_never_stamped(boots):
    """However calm the job's other states are: what they lend gives an interval alone."""
    others = [[60.0, 60.4, 59.7, 60.2], [51.0, 51.3, 50.8]]
    sides = rounds([74.0, 74.1][:boots], [60.0, 60.1, 60.2])
    shift = shift_between(Measure.SETTLED, *sides, others)
    wanted = shift.more_before, shift.more_boots
    assert (shift.verdict, wanted) == (Verdict.UNPROVEN, (3 - boots, 0))
    assert shift.low < -14 < shift.high < 0
    assert "Fewer than three" in reason_in_words(shift.reason)


def test_so_many_more_boots_decide_it_in_four_cases_of_five():
    """The full study is a benchmark; here three standard errors below."""
    rng = np.random.default_rng(5)
    asked = kept = 0
    while asked < 120:
        before = 60 * np.exp(0.03 * rng.standard_normal(16))
        after = (60 + rng.uniform(-6, 6)) * np.exp(0.03 * rng.standard_normal(16))
        shift = shift_between(Measure.SETTLED, *rounds(before[:4], after[:4]))
        if shift.more_boots is not None:
            asked += 1
            sides = before[: 4 + shift.more_before], after[: 4 + shift.more_boots]
            later = shift_between(Measure.SETTLED, *rounds(*sides))
            kept += later.verdict is not Verdict.UNPROVEN
    assert kept / asked > 0.8 - 0.11


def censored(values, *which):
    return [Reading(value, index in which) for index, value in enumerate(values)]


SLOW, QUICK = [100.0, 101.0, 102.0, 100.5, 101.5], [60.0, 61.0, 60.5, 60.2, 60.8]


@pytest.mark.parametrize(
    ("before", "after", "verdict"),
    [
        (censored(SLOW, 2), censored(QUICK), Verdict.SAVED),
        (censored(QUICK), censored(SLOW, 1, 2), Verdict.LOST),
        # A later boot that never settled counts as endless: ranks decide, if there are enough.
        (censored(SLOW), censored([*QUICK, 60.1], 5), Verdict.UNPROVEN),
        (censored(SLOW * 2), censored([*QUICK, *QUICK, 60.1], 10), Verdict.SAVED),
        (censored(SLOW * 2), censored(QUICK * 2, 0, 1, 2, 3, 4, 5), Verdict.UNPROVEN),
        (censored([*QUICK, *QUICK, 60.1], 10), censored(SLOW * 2), Verdict.LOST),
        (censored(QUICK, 0), censored(QUICK, 1), Verdict.UNPROVEN),
    ],
)
def test_a_boot_that_never_settled_can_only_be_slower(before, after, verdict):
    shift = shift_between(Measure.SETTLED, before, after)
    assert shift.verdict is verdict
    assert (shift.low is None) == any(reading.censored for reading in before)
    assert (shift.high is None) == any(reading.censored for reading in after)


def test_ranks_count_the_orders_there_are():
    low, high = rounds([1.0, 2.0, 3.0, 4.0], [5.0, 6.0, 7.0, 8.0])
    assert surely_below(low, high, 1.0, 1 / 70)
    assert not surely_below(low, high, 1.0, 1 / 71)
    assert not surely_below(low, high, 5.0, 1 / 70)
    assert not surely_below(high, low, 1.0, 0.5)
    assert surely_below(low * 20, high * 20, 1.0, 1e-6)


def test_the_other_measures_are_judged_together():
    """The same evidence is a stamp in the headline and, among many as weak, none beside it."""
    rng = np.random.default_rng(8)
    weak = rounds(60 + rng.standard_normal(4), 55.6 + rng.standard_normal(4))
    shift = shift_between(Measure.SETTLED, *weak)
    assert shift.verdict is Verdict.SAVED
    assert STAMP_LEVEL / 7 < shift.chance < STAMP_LEVEL
    together = beside_others(dict.fromkeys(Measure, shift), Measure.SETTLED)
    assert together[Measure.SETTLED] == shift
    assert {one.verdict for one in together.values()} == {Verdict.SAVED, Verdict.UNPROVEN}
    sure = replace(shift, chance=STAMP_LEVEL / 8)
    assert beside_others(dict.fromkeys(Measure, sure), Measure.SETTLED)[Measure.READY] == sure


@example([1.0], [4684.0, 7370.0, 2.5], Random(1))
@example([2.0, 2.0, 2.0, 4.0, 7.0], [1.0, 6789.0, 8348.0, 8353.0], Random(1))
@given(
    st.lists(st.floats(1, 1e4), min_size=1, max_size=8),
    st.lists(st.floats(1, 1e4), min_size=1, max_size=8),
    st.randoms(),
)
def test_the_order_within_a_state_changes_nothing_without_the_line(before, after, rng):
    def said(*sides):
        shift = shift_between(Measure.SETTLED, *rounds(*sides))
        return (shift.verdict, shift.more_boots), (shift.low or 0.0, shift.high or 0.0)

    words, interval = said(before, after)
    mixed = [rng.sample(side, len(side)) for side in (before, after)]
    assert said(*mixed) == (words, pytest.approx(interval, rel=1e-6, abs=1e-6))


@given(st.floats(-20, 20), st.floats(0, 20), st.floats(0, 3))
def test_no_verdict_claims_what_the_interval_denies(middle, half, band):
    low, high = middle - half, middle + half
    verdict = verdict_of(low, high, middle, band)
    if low <= 0 <= high:
        assert verdict in {Verdict.EVEN, Verdict.UNPROVEN}
    if verdict is Verdict.EVEN:
        assert abs(low) <= band
        assert abs(high) <= band


def test_coverage_and_false_verdicts_with_three_boots_a_side():
    """The promise of the interval, on noise of a known kind (the full study is a benchmark)."""
    rng = np.random.default_rng(4)
    held = false = 0
    trials = 600
    for _ in range(trials):
        before, same = np.exp(0.05 * rng.standard_normal((2, 3))) * 60
        after = np.exp(0.05 * rng.standard_normal(3)) * 54
        shift = shift_between(Measure.SETTLED, *rounds(before, after))
        held += shift.low <= -6.0 <= shift.high
        none = shift_between(Measure.SETTLED, *rounds(before, same))
        false += none.verdict in {Verdict.SAVED, Verdict.LOST}
    # Three standard errors of a proportion below 0.93 and above 0.05.
    assert held / trials > 0.93 - 0.031
    assert false / trials < 0.05 + 0.027


def caution(before, after, orders):
    """By how much the error is larger for a stamp."""
    sides = [
        [BootPoint(60.0 + away, order) for away, order in zip(side, ranks, strict=True)]
        for side, ranks in zip((before, after), orders, strict=True)
    ]
    found = estimate(Measure.SETTLED, (sides[0], sides[1]))
    return found.strict_error / found.error


def test_a_stamp_takes_neighbours_for_alike_until_boots_show_that_they_are_not():
    few, unlike = [0.5, -0.4, 0.6], [0.5, -0.5] * 12
    in_blocks = ([0, 1, 2], [3, 4, 5])
    assert 1.3 < caution(few, few, in_blocks) < 2.5
    assert caution(unlike, unlike, (range(24), range(24, 48))) == pytest.approx(1.0, abs=0.01)
    assert caution(few, few, ([0, 3, 4], [1, 2, 5])) < caution(few, few, in_blocks)
    assert caution(few, few, ([0, 0, 0], [0, 0, 0])) == 1.0  # their order is not known
