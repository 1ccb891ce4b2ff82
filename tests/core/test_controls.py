"""Controls: a machine that got faster by itself saves nobody anything."""

import random
from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pytest

from plucky_ledger.core.book.book import compare_rounds, keep_book
from plucky_ledger.core.book.comparability import remarks
from plucky_ledger.core.book.verdict import Verdict
from plucky_ledger.core.boots.boot import Boot, Context, How
from plucky_ledger.core.job.changes import Change, ChangeKind
from plucky_ledger.core.job.job import Card, Job
from plucky_ledger.core.job.postings import Posting
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.statistics.controls import exponent_of, odd_boots
from plucky_ledger.core.values.measures import Measure, Reading
from plucky_ledger.core.values.reasons import ReasonCode
from plucky_ledger.pages.verdict import verdict_page
from plucky_ledger.wording.reasons import reason_in_words
from plucky_ledger.wording.verdict import basis, comparability_in_words

START = datetime(2026, 11, 20, 10, 0, tzinfo=UTC)

# Settled, system up, CPU work and kernel stage of real boots of one PC: untouched, with one service
# switched off, and untouched while its host was busy.
BASELINE = [(59.4, 55.9, 100.0, 5.667), (60.0, 59.7, 105.3, 6.6), (60.1, 58.1, 102.6, 5.889)]
WITHOUT = [(46.2, 42.2, 83.9, 5.9), (49.0, 44.4, 89.4, 5.952), (49.1, 44.7, 89.9, 5.817)]
SLOW_HOST = [(80.4, 79.8, 141.2, 9.878), (75.3, 74.0, 130.0, 9.605)]


def boots(rows, times, first=0):
    return tuple(
        Boot(
            number=first + index,
            started_at=START + timedelta(minutes=minutes),
            how=How.RECORDED,
            readings={
                Measure.SETTLED: Reading(settled),
                Measure.SYSTEM_UP: Reading(up),
                Measure.CPU_WORK: Reading(work),
                Measure.MEMORY_HELD: Reading(590.0 + index),
            },
            context=Context(kernel="6.1", controls={"kernel stage": kernel}),
        )
        for index, (minutes, row) in enumerate(zip(times, rows, strict=True))
        for settled, up, work, kernel in [row]
    )


def job(before, after, times=None):
    times = times or range(len(before) + len(after))
    change = Change(kind=ChangeKind.STARTUP_ENTRY, what="one service switched off")
    later = boots(after, times[len(before) :], 50)
    posting = Posting(number=1, changes=(change,), posted_at=START, boots=later)
    opening = boots(before, times[: len(before)])
    return Job(
        number=1,
        card=Card("1", "captured PC"),
        facts=Facts(),
        taken_in_at=START,
        opening_boots=opening,
        postings=(posting,),
    )


@pytest.mark.study
@pytest.mark.parametrize("turned", [False, True])
def test_a_quicker_or_slower_host_is_no_saving_and_no_loss(turned):
    """Nothing on the PC differs; a plain comparison would swear to some 18 s.

    Real boots drawn again and again, a little noise on each, in any number and order.
    """
    rng = random.Random(3)

    def some(rows):
        return [
            tuple(figure * rng.gauss(1, 0.015) for figure in rng.choice(rows))
            for _ in range(rng.randint(1, 9))
        ]

    for _ in range(150):
        sides = [some(SLOW_HOST), some(BASELINE)]
        before, after = sides[::-1] if turned else sides
        times = list(range(len(before) + len(after)))
        rng.shuffle(times)
        drifted = job(before, after, times)
        for measure in (Measure.SETTLED, Measure.SYSTEM_UP, Measure.CPU_WORK):
            assert compare_rounds(drifted, measure, 0, 1).verdict is Verdict.UNPROVEN


def test_the_machines_own_speed_is_taken_out_boot_by_boot_and_said():
    drifted = job(SLOW_HOST * 2, BASELINE)
    shift = compare_rounds(drifted, Measure.SETTLED, 0, 1)
    assert shift.value < -15
    assert shift.low < 0 < shift.high
    assert "faster" in reason_in_words(shift.reason)
    page = verdict_page(drifted, Measure.SETTLED, 1)
    assert "PC itself was" in comparability_in_words(page)
    assert "speed is taken out" in basis(page)
    assert keep_book(drifted, Measure.SETTLED).balances
    assert compare_rounds(drifted, Measure.MEMORY_HELD, 0, 1).drift is None


@pytest.mark.parametrize("times", [range(6), (0, 2, 4, 1, 3, 5)])
def test_a_real_saving_on_a_steady_machine_is_one(times):
    """Its interval holds what many more boots of that PC say: 12.1 s."""
    shift = compare_rounds(job(BASELINE, WITHOUT, times), Measure.SYSTEM_UP, 0, 1)
    assert shift.verdict is Verdict.SAVED
    assert shift.low < -12.1 < shift.high


def test_a_saving_larger_than_the_drift_is_still_a_saving():
    """The host got a little slower, and yet it settles sooner."""
    slower = [(a * 1.06, b * 1.06, c * 1.06, d * 1.1) for a, b, c, d in WITHOUT]
    shift = compare_rounds(job(BASELINE, slower), Measure.SYSTEM_UP, 0, 1)
    assert shift.verdict is Verdict.SAVED
    assert shift.centre < shift.value


def test_the_exponent_is_what_the_jobs_own_boots_show_once_there_are_many():
    usual = exponent_of([])
    assert (usual.value, round(usual.error, 3)) == (0.6, 0.15)
    rng = random.Random(1)
    speeds = [rng.gauss(0, 0.2) for _ in range(40)]
    shown = exponent_of([[(x, 4.0 + 0.2 * x + rng.gauss(0, 0.02), 1.0) for x in speeds]])
    assert shown.value == pytest.approx(0.2, abs=0.05)
    assert shown.error < 0.05


def test_a_boot_on_an_oddly_slow_machine_is_named_by_its_number():
    rows = [*BASELINE, (75.3, 74.0, 130.0, 9.605)]
    assert list(odd_boots(boots(rows, range(4)))) == [3]
    assert "In boot 4 before the PC itself was 54 % slower" in comparability_in_words(
        verdict_page(job(rows, WITHOUT), Measure.SETTLED, 1)
    )


def without_controls(rows, times):
    return tuple(replace(boot, context=Context(kernel="6.1")) for boot in boots(rows, times))


@pytest.mark.parametrize(("times", "said"), [((0, 1, 2), True), ((0, 5, 10), False)])
def test_where_nothing_tells_the_machines_speed_that_is_said_unless_turns_were_taken(times, said):
    """A host of two speeds cannot be told from the change, in rounds without a control."""
    before, after = without_controls(BASELINE, times), without_controls(WITHOUT, (3, 6, 12))
    codes = [reason.code for reason in remarks(before, after)]
    assert (ReasonCode.NO_CONTROL in codes) is said
    assert remarks(boots(BASELINE, times), boots(WITHOUT, (3, 6, 12))) == ()
    timeless = [replace(boot, readings={}) for boot in before]
    assert remarks(tuple(timeless), after) == ()
