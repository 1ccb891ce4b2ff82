"""One sign convention: figures lie in their intervals, no time is negative, sums are shown."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plucky_ledger.core.book.plans import plans_held
from plucky_ledger.core.book.verdict import Verdict, shift_between
from plucky_ledger.core.replay.startup_cost import PlanEstimate
from plucky_ledger.core.values.estimates import Estimate
from plucky_ledger.core.values.measures import Measure, Reading
from plucky_ledger.core.values.reasons import Reason, ReasonCode
from plucky_ledger.pages.book import book_page
from plucky_ledger.pages.verdict import VerdictRow, verdict_page
from plucky_ledger.usecases.jobs.jobs import read_jobs
from plucky_ledger.wording.book import row_in_words, saved_or_lost
from plucky_ledger.wording.entries import expected_in_words
from plucky_ledger.wording.verdict import as_expected, row_shift, why_unproven

seconds = st.floats(-200.0, 200.0)


@st.composite
def estimates(draw) -> Estimate:
    value = draw(st.floats(0.0, 120.0))
    below, above = draw(st.floats(0.0, 150.0)), draw(st.floats(0.0, 150.0))
    return Estimate(value, value - below, value + above)


def plan(settled, saved):
    return PlanEstimate(
        settled=settled,
        system_up=settled,
        saved=saved,
        up_saved=saved,
        memory_bytes=0.0,
        processes=0,
    )


@given(estimates(), estimates(), st.floats(20.0, 300.0))
def test_a_plan_adds_up_as_it_is_shown(settled, saved, balance):
    moved = plan(settled, saved).from_balances(balance, balance)
    assert round(balance, 1) - round(saved.value, 1) == pytest.approx(moved.settled.value)
    for before, after in ((settled, moved.settled), (settled, moved.system_up)):
        assert after.high - after.low == pytest.approx(before.high - before.low)
        assert after.low <= after.value <= after.high


@pytest.mark.parametrize(
    ("expected", "useless"),
    [
        (Estimate(40.0, -46.2, 126.1), True),
        (Estimate(40.0, 9.9, 70.1), True),
        (Estimate(40.0, 30.0, 50.0), False),
        (Estimate(3.0, -0.5, 3.9), False),
    ],
)
def test_a_plan_that_says_nothing_is_not_said_to_have_held(demo, expected, useless):
    job = next(job for job in read_jobs(demo) if job.card.label == "0417")
    planned = replace(job.postings[0], expected={Measure.SETTLED: expected})
    job = replace(job, postings=(planned, *job.postings[1:]))
    page = verdict_page(job, Measure.SETTLED, 1)
    remark = row_in_words(book_page(job, Measure.SETTLED).rows[1]).remark
    assert ("too uncertain to be of use" in as_expected(page)) is useless
    assert ("as predicted" in as_expected(page)) is not useless
    assert "−" not in as_expected(page)
    assert ("predicted" in remark) is not useless
    assert len(plans_held(job)) == (0 if useless else 1)
    told = expected_in_words(plan(expected, Estimate(-2.0, -3.0, -1.0)))
    assert told == (
        "The prediction is too uncertain to be of use"
        if useless
        else f"Predicted: settled at {expected.value:.1f} s, 2.0 s later"
    )


def shift(before, after):
    sides = ([Reading(value) for value in side] for side in (before, after))
    return shift_between(Measure.SETTLED, *sides)


def row(found):
    return VerdictRow(
        measure=Measure.SETTLED,
        before=(),
        after=(),
        typical_before=60.0,
        typical_after=50.0,
        shift=found,
        span=(0.0, 100.0),
    )


def test_what_the_interval_does_not_say_is_said_beside_it():
    clear = shift([60.0, 60.4, 60.2], [50.0, 50.4, 50.2])
    assert row_shift(row(clear)).startswith("−10.0 (−")
    assert why_unproven(row(clear)) == ""
    held = replace(clear, verdict=Verdict.UNPROVEN, reason=Reason(ReasonCode.ONE_OF_MANY))
    assert why_unproven(row(held)) == "not sure enough, one of 8"
    wide = shift([60.0, 64.4, 56.2], [58.0, 66.4, 54.2])
    assert wide.low < 0 < wide.high
    assert wide.reason is not None
    assert why_unproven(row(wide)) == "", "an interval on both sides of zero says it"
    assert why_unproven(row(shift([60.0, 60.1], [50.0, 50.1]))) == "too few boots"


def test_an_amount_outside_its_interval_says_why_in_the_book():
    clear = shift([60.0, 60.4, 60.2], [50.0, 50.4, 50.2])
    assert ":" not in saved_or_lost(clear)
    moved = replace(clear, centre=-14.5, low=-16.0, high=-13.1, by_speed=-4.5)
    assert saved_or_lost(moved) == "saved 13.1 to 16.0: the PC's own speed is taken out"
    odd = replace(clear, centre=-14.5, low=-16.0, high=-13.1, wrong=((0.9, 0.0, 0.0), (0.0,) * 3))
    assert saved_or_lost(odd).endswith(": odd boots count for less")
