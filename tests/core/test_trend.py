"""Steps over months: found where they are, not where they are none, and what came with them."""

from dataclasses import replace
from datetime import UTC, date, datetime, timedelta

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plucky_ledger.core.boots.boot import Boot, Context, How
from plucky_ledger.core.job.changes import Change, ChangeKind
from plucky_ledger.core.job.job import Card, Job
from plucky_ledger.core.job.postings import Posting
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.pc.history import PackageAction, PackageEvent
from plucky_ledger.core.trend.changepoints import steps_in
from plucky_ledger.core.trend.trend import Beside, trend_of
from plucky_ledger.core.values.measures import Measure, Reading
from plucky_ledger.core.values.reasons import Reason, ReasonCode
from plucky_ledger.wording.trend import causes, step_in_words, trend_in_short

BEGIN = datetime(2026, 1, 5, 9, tzinfo=UTC)


def year(seed, boots=160, stepped_at=None, by=5.0):
    """Boots of about 40 s; one in twelve is slow."""
    rng = np.random.default_rng(seed)
    values = 40 * np.exp(rng.normal(0, 0.025, boots))
    values[rng.random(boots) < 0.08] *= 1.5
    if stepped_at is not None:
        values[stepped_at:] *= (40 + by) / 40
    return values.tolist()


@pytest.mark.study
def test_a_year_without_a_step_has_none_and_a_step_is_dated():
    assert sum(bool(steps_in(year(seed))) for seed in range(30)) <= 2
    dated = 0
    for seed in range(12):
        steps = steps_in(year(seed, stepped_at=90))
        (step,) = [one for one in steps if one.earliest <= 90 <= one.latest]
        assert step.after - step.before == pytest.approx(5.0, abs=1.5)
        dated += len(steps) == 1
    assert dated >= 10


@pytest.mark.study
def test_five_boots_after_a_step_are_enough():
    found = sum(bool(steps_in(year(seed, 120, stepped_at=115))) for seed in range(20))
    assert found >= 18


@given(st.lists(st.floats(0.5, 900.0), max_size=40), st.floats(0.1, 20.0))
def test_steps_part_a_series_in_order_whatever_its_unit(values, factor):
    steps = steps_in(values)
    places = [step.at for step in steps]
    assert places == sorted(set(places))
    for step in steps:
        assert 0 <= step.earliest <= step.at <= step.latest < len(values)
    scaled = [step.at for step in steps_in([value * factor for value in values])]
    if min(values, default=1.0) > 1.0:
        assert scaled == places


@given(st.integers(8, 60), st.floats(1.0, 500.0))
def test_what_never_changes_has_no_step(count, value):
    assert steps_in([value] * count) == ()


def boot(number, value, noticed=()):
    return Boot(
        number=number,
        started_at=BEGIN + timedelta(days=2 * number),
        how=How.JOURNAL,
        readings={Measure.SYSTEM_UP: Reading(value), Measure.MEMORY_HELD: Reading(500.0 + number)},
        context=Context(noticed=noticed),
    )


def test_what_came_with_a_step_is_named():
    values = year(3, 60, stepped_at=40, by=8.0)
    boots = [boot(index, value) for index, value in enumerate(values)]
    boots[40] = boot(40, values[40], (Reason.of(ReasonCode.NEW_ENTRY, name="Tidewatch"),))
    boots[7] = replace(boots[7], set_aside="somebody was at the door")
    day = (BEGIN + timedelta(days=79)).date()
    packages = [
        PackageEvent(day, PackageAction.INSTALLED, "tidewatch", "2.0"),
        PackageEvent(day, PackageAction.UPDATED, "ropewalk", "5.6"),
        PackageEvent(date(2026, 1, 9), PackageAction.INSTALLED, "long-before", "1"),
    ]
    job = Job(
        number=1,
        card=Card("0001", "Till"),
        facts=Facts(),
        taken_in_at=BEGIN,
        opening_boots=tuple(boots),
    )
    trend = trend_of(job, Measure.SYSTEM_UP, packages)
    assert len(trend.points) == 59
    (step,) = trend.steps
    assert step_in_words(step, trend.measure).startswith("Slower by")
    told = causes(step)
    for words in ("Tidewatch", "Installed then: tidewatch", "Updated then: ropewalk"):
        assert words in told
    assert "long-before" not in told
    first, last = trend.levels
    assert (first.begin, last.end) == (boots[0].started_at, boots[-1].started_at)
    held = [point.value for point in trend.beside[Beside.MEMORY]]
    assert (held[0], held[-1], len(held)) == (500e6, 559e6, 59)


def test_our_own_posting_is_named_and_few_boots_tell_nothing():
    values = year(3, 24, stepped_at=12, by=-9.0)
    boots = [boot(index, value) for index, value in enumerate(values)]
    posted = Posting(
        number=1,
        changes=(Change(kind=ChangeKind.MEMORY, what="two modules"),),
        posted_at=BEGIN + timedelta(days=23),
        boots=tuple(boots[12:]),
    )
    job = Job(
        number=1,
        card=Card("0001", "Till"),
        facts=Facts(),
        taken_in_at=BEGIN,
        opening_boots=tuple(boots[:12]),
        postings=(posted,),
    )
    (step,) = trend_of(job, Measure.SYSTEM_UP).steps
    assert step_in_words(step, Measure.SYSTEM_UP).startswith("Quicker by")
    assert "two modules" in causes(step)
    few = trend_of(replace(job, opening_boots=tuple(boots[:3]), postings=()), Measure.SYSTEM_UP)
    assert "8 boots" in trend_in_short(few)
