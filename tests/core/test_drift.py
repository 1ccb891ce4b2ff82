"""Controls: a machine that got faster by itself saves nobody anything."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pytest

from plucky_ledger.core.book.book import compare_rounds, keep_book
from plucky_ledger.core.book.drift import drift_between
from plucky_ledger.core.book.job import Card, Change, ChangeKind, Job, Posting
from plucky_ledger.core.book.verdict import Verdict
from plucky_ledger.core.boots.boot import Boot, Context, How
from plucky_ledger.core.measures import Measure, Reading
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.pages.verdict import verdict_page
from plucky_ledger.wording.reasons import reason_in_words
from plucky_ledger.wording.verdict import basis, fairness

START = datetime(2026, 11, 20, 10, 0, tzinfo=UTC)

# Settled, system up, CPU work and kernel stage of real boots of one PC: untouched, with one service
# switched off, and untouched while its host was busy.
BASELINE = [(59.4, 55.9, 100.0, 5.667), (60.0, 59.7, 105.3, 6.6), (60.1, 58.1, 102.6, 5.889)]
WITHOUT = [(46.2, 42.2, 83.9, 5.9), (49.0, 44.4, 89.4, 5.952), (49.1, 44.7, 89.9, 5.817)]
SLOW_HOST = [(80.4, 79.8, 141.2, 9.878), (75.3, 74.0, 130.0, 9.605)]


def boots(rows, first=0):
    return tuple(
        Boot(
            first + index, START + timedelta(minutes=first + index), How.RECORDED,
            readings={
                Measure.SETTLED: Reading(settled), Measure.SYSTEM_UP: Reading(up),
                Measure.CPU_WORK: Reading(work), Measure.MEMORY_HELD: Reading(590.0 + index),
            },
            context=Context(kernel="6.1", controls={"kernel stage": kernel}),
        )
        for index, (settled, up, work, kernel) in enumerate(rows)
    )  # fmt: skip


def job(before, after):
    change = Change(ChangeKind.STARTUP_ENTRY, "one service switched off")
    posting = Posting(1, (change,), posted_at=START, boots=boots(after, 50))
    return Job(1, Card("1", "captured PC"), Facts(), START, boots(before), (posting,))


def test_a_quicker_host_is_no_saving():
    """Nothing on the PC differs; a plain comparison would swear to some 18 s."""
    drifted = job(SLOW_HOST, BASELINE)
    for measure in (Measure.SETTLED, Measure.SYSTEM_UP, Measure.CPU_WORK):
        shift = compare_rounds(drifted, measure, 0, 1)
        assert shift.verdict is Verdict.UNPROVEN
        assert shift.value < 0 < shift.adjusted
        assert "40 % faster" in reason_in_words(shift.reason)
    page = verdict_page(drifted, Measure.SETTLED, 1)
    assert "machine itself was" in fairness(page)
    assert "taken out" in basis(page)
    assert keep_book(drifted, Measure.SETTLED).balances


def test_a_real_saving_on_a_steady_machine_is_one():
    saved = job(BASELINE, WITHOUT)
    assert drift_between(saved.opening_boots, saved.postings[0].boots) is None
    for measure in (Measure.SETTLED, Measure.SYSTEM_UP, Measure.CPU_WORK):
        assert compare_rounds(saved, measure, 0, 1).verdict is Verdict.SAVED


def test_a_saving_larger_than_the_drift_is_still_a_saving():
    """The host got a little slower, and yet it settles sooner."""
    slower = [(a * 1.06, b * 1.06, c * 1.06, d * 1.2) for a, b, c, d in WITHOUT]
    shift = compare_rounds(job(BASELINE, slower), Measure.SETTLED, 0, 1)
    assert shift.verdict is Verdict.SAVED
    assert shift.drift.ratio > 1.1
    assert shift.adjusted < shift.value


def test_memory_does_not_depend_on_the_machines_speed():
    shift = compare_rounds(job(SLOW_HOST, BASELINE), Measure.MEMORY_HELD, 0, 1)
    assert shift.drift is None


@pytest.mark.parametrize(
    ("before", "after", "moved"),
    [
        ([6.0, 6.1, 5.9], [6.0, 5.9, 6.1], False),
        ([6.0, 6.1, 5.9], [6.1, 6.2, 6.15], False),  # less than 4 %
        ([6.0, 7.5, 5.9], [7.0, 7.2, 7.4], False),  # boots overlap
        ([6.0, 6.1, 5.9], [7.0, 7.2, 7.4], True),
        ([], [7.0], False),
    ],
)
def test_a_control_moves_only_when_it_clearly_does(before, after, moved):
    def having(values):
        template = boots(BASELINE[:1])[0]
        return tuple(
            replace(template, context=Context(controls={"fixed work": value})) for value in values
        )

    assert (drift_between(having(before), having(after)) is not None) == moved
