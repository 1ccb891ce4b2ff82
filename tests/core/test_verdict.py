"""The verdict on two rounds."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plucky_ledger.core.book.verdict import Verdict, shift_between, verdict_of
from plucky_ledger.core.measures import Measure, Reading
from plucky_ledger.wording.reasons import reason_in_words


def rounds(*sides):
    return [[Reading(value) for value in side] for side in sides]


@pytest.mark.parametrize(
    ("before", "after", "verdict"),
    [
        ([74.1, 73.6, 74.4], [59.8, 60.3, 60.0], Verdict.SAVED),
        ([59.8, 60.3, 60.0], [74.1, 73.6, 74.4], Verdict.LOST),
        ([60.0, 60.1, 60.2, 60.1], [60.1, 60.2, 60.0, 60.1], Verdict.EVEN),
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


def test_one_boot_a_side_borrows_the_spread_of_the_jobs_other_rounds():
    others = [[60.0, 60.4, 59.7, 60.2], [51.0, 51.3, 50.8]]
    shift = shift_between(Measure.SETTLED, *rounds([74.0], [60.0]), others)
    assert shift.verdict is Verdict.SAVED
    assert "other rounds" in reason_in_words(shift.reason)


def test_an_unproven_shift_says_how_many_boots_would_decide_it():
    """As many more boots with the same spread do decide it."""
    before, after = [60.0, 62.4, 59.0], [57.6, 59.9, 56.5]
    shift = shift_between(Measure.SETTLED, *rounds(before, after))
    assert shift.verdict is Verdict.UNPROVEN
    count = len(after) + shift.more_boots
    spread = np.std(before, ddof=1)
    ideal = spread * np.linspace(-1.3, 1.3, count)
    ideal *= spread / np.std(ideal, ddof=1)
    decided = shift_between(Measure.SETTLED, *rounds(60.2 + ideal, 57.7 + ideal))
    assert decided.verdict is Verdict.SAVED


@pytest.mark.parametrize(
    ("before_censored", "after_censored", "verdict"),
    [(True, False, Verdict.SAVED), (False, True, Verdict.UNPROVEN), (True, True, Verdict.UNPROVEN)],
)
def test_a_boot_that_never_settled_can_only_be_slower(before_censored, after_censored, verdict):
    before = [Reading(100.0), Reading(101.0), Reading(102.0, before_censored)]
    after = [Reading(60.0), Reading(61.0), Reading(60.5, after_censored)]
    assert shift_between(Measure.SETTLED, before, after).verdict is verdict


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
