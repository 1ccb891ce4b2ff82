"""Exactly at the edges: where a rule begins, which end comes first, what a number counts."""

from dataclasses import replace
from datetime import UTC, datetime
from math import comb, inf

import numpy as np
import pytest

from plucky_ledger.core.book.balance import Balance, in_book_units
from plucky_ledger.core.book.comparability import Side, alike, boot_concerns, concerns
from plucky_ledger.core.book.effects_fit import _Fitted, _has_room_for_a_line
from plucky_ledger.core.book.verdict import Shift, Verdict, beside_others, shift_between
from plucky_ledger.core.boots.boot import Boot, Context, How
from plucky_ledger.core.boots.chain import chain_to
from plucky_ledger.core.boots.context import updates_running
from plucky_ledger.core.boots.owner_use import OwnerUse
from plucky_ledger.core.boots.readings import readings_of, settled_of
from plucky_ledger.core.boots.settle import find_settled
from plucky_ledger.core.boots.timeline import Activity
from plucky_ledger.core.entries.commands import likeness, unwrapped
from plucky_ledger.core.job.inventory import Inventory, InventoryEntry, unposted_changes
from plucky_ledger.core.pc.condition import FileSystem
from plucky_ledger.core.replay.grades import Grade, GradeThresholds, grade_of
from plucky_ledger.core.replay.preview import _earlier
from plucky_ledger.core.replay.startup_cost import StartupCost
from plucky_ledger.core.statistics import ranks
from plucky_ledger.core.statistics.comparison import Estimated, Scale
from plucky_ledger.core.statistics.mixture import Centre, _distance, _pooled
from plucky_ledger.core.statistics.sample_size import WORTH_BOOTS, more_boots
from plucky_ledger.core.trend.changepoints import steps_in
from plucky_ledger.core.values.estimates import Estimate
from plucky_ledger.core.values.measures import TERMS, Measure, Reading, Unit, noticeable_band
from plucky_ledger.core.values.reasons import ReasonCode
from plucky_ledger.wording.intervals import estimated, interval
from tests.core.test_settle import BUSY, CALM, samples
from tests.helpers.runs import run

LEVELS = GradeThresholds(heavy=0.2, moderate=0.1, light=0.02)
NO_USE = OwnerUse(0.0, 0.0, 0.0, 0)


def shift(measure=Measure.SETTLED, chance=1.0, low=-16.8, high=-11.9):
    return Shift(
        measure=measure,
        before=Balance(measure, 600, 5),
        after=Balance(measure, 457, 5),
        low=low,
        high=high,
        verdict=Verdict.SAVED,
        more_boots=None,
        reason=None,
        chance=chance,
    )


def cost(value, low):
    return StartupCost(
        entry_id="foghorn",
        settled=Estimate(value, low, value * 2),
        system_up=None,
        use=NO_USE,
        per_boot=(value,),
        boots=3,
    )


def test_the_smaller_end_of_an_interval_comes_first():
    assert interval(shift()) == "11.9 to 16.8"
    assert interval(replace(shift(low=0.3, high=0.9), centre=0.6)) == "0.3 to 0.9"  # lost
    assert estimated(Estimate(10.2, 9.4, 11.7)) == "9.4 to 11.7"


def test_load_at_rest_is_a_percentage_of_all_cores():
    curve = samples([BUSY] * 40 + [0.05] * 40, cores=4)
    readings = readings_of({}, curve, settled_of({}, curve))
    assert readings[Measure.LOAD_AT_REST].value == pytest.approx(5.0)


def test_measures_beside_the_headline_pass_a_level_that_grows():
    """Three of them: a third of 0.008, a half, and all of it (Holm)."""
    beside = {Measure.READY: 0.0025, Measure.SYSTEM_UP: 0.0039, Measure.CPU_WORK: 0.0079}
    shifts = {Measure.SETTLED: shift()}
    shifts |= {measure: shift(measure, chance) for measure, chance in beside.items()}
    held = beside_others(shifts, Measure.SETTLED)
    assert all(one.verdict is Verdict.SAVED for one in held.values())
    shifts[Measure.SYSTEM_UP] = shift(Measure.SYSTEM_UP, 0.0041)
    held = beside_others(shifts, Measure.SETTLED)
    assert [held[measure].verdict for measure in beside] == [
        Verdict.SAVED,
        Verdict.UNPROVEN,
        Verdict.UNPROVEN,
    ]


@pytest.mark.parametrize("later", [0.0, -2.0, 2.0])
def test_a_boot_that_never_settled_stamps_nothing_that_the_others_do_not(later):
    """A change within the boots' own scatter, with one boot known only to be this or more."""
    before = [Reading(60.0, censored=True), Reading(75.0), Reading(50.0), Reading(66.0)]
    after = [Reading(value + later) for value in (61.0, 74.0, 51.0, 65.0)]
    assert shift_between(Measure.SETTLED, before, after).verdict is Verdict.UNPROVEN
    assert shift_between(Measure.SETTLED, after, before).verdict is Verdict.UNPROVEN


def test_more_boots_are_those_still_to_come():
    known = Estimated(
        shift=-6.0,
        error=2.1,
        strict_error=2.1,
        variances=(9.0, 9.0),
        degrees=8.0,
        weights=((1.0,) * 5, (1.0,) * 5),
        line=False,
        effective_boots=(5.0, 5.0),
        inflated=1.0,
    )
    asked = [
        more_boots(replace(known, shift=shift), (5, 5), 0.5, 0.008)
        for shift in (-6.0, -6.5, -7.0, -7.5, -8.0)
    ]
    assert asked == [
        (6, 6),
        (4, 4),
        (0, 7),
        (0, 4),
        (0, 2),
    ]  # of the later state alone if that does
    assert max(max(asked)) <= WORTH_BOOTS - 5
    assert more_boots(replace(known, shift=-5.0), (5, 5), 0.5, 0.008) is None
    cautious = replace(known, shift=-8.0, strict_error=2.8)
    assert more_boots(cautious, (5, 5), 0.5, 0.008) == (5, 5)


@pytest.mark.parametrize(
    ("value", "low", "grade"),
    [
        (20.0, 1.0, Grade.HEAVY),
        (19.9, 1.0, Grade.MODERATE),
        (10.0, 1.0, Grade.MODERATE),
        (2.0, 1.0, Grade.LIGHT),
        (1.9, 1.0, Grade.NEGLIGIBLE),
        (20.0, 0.0, Grade.NEGLIGIBLE),  # it may be nothing
    ],
)
def test_a_grade_begins_at_its_share_and_needs_an_interval_above_nothing(value, low, grade):
    assert grade_of(cost(value, low), 100.0, 4e9, LEVELS) is grade


def test_a_pc_that_never_settles_is_graded_by_system_up():
    told = replace(cost(1.0, 1.0), settled=None, system_up=Estimate(6.0, 4.0, 8.0))
    assert grade_of(told, 0.0, 4e9, LEVELS, system_up_seconds=50.0) is Grade.MODERATE
    assert grade_of(told, 0.0, 4e9, LEVELS, system_up_seconds=0.0) is Grade.UNGRADED


def test_what_was_set_on_and_off_is_told_apart():
    def inventory(starts):
        return Inventory({"foghorn": InventoryEntry("Foghorn", starts, "")}, 0, (), "")

    for before, now, code in (
        (False, True, ReasonCode.SET_ON),
        (True, False, ReasonCode.SET_OFF),
    ):
        assert [r.code for r in unposted_changes(inventory(before), inventory(now), {})] == [code]


def started(**context):
    return Boot(
        number=1,
        started_at=datetime(2026, 11, 2, 9, 0, tzinfo=UTC),
        how=How.RECORDED,
        context=Context(**context),
    )


def test_what_is_alike_is_the_same_in_every_boot():
    one, other = started(kernel="6.1"), started(kernel="6.12")
    assert alike((one,), (one,)).kernel
    assert not alike((one,), (other,)).kernel
    assert not alike((started(),), (started(),)).kernel  # nothing is known
    assert alike((one,), (other,)).how is How.RECORDED
    assert alike((one,), (replace(other, how=How.TYPED),)).how is None


def test_what_differs_is_said_of_the_side_it_was_on():
    (reason,) = concerns((started(kernel="6.1"),), (started(kernel="6.12"),))
    assert reason.code is ReasonCode.KERNEL_DIFFERS
    assert (reason.facts["before"], reason.facts["after"]) == ("6.1", "6.12")
    assert concerns((started(kernel="6.1"),), (started(kernel="6.1"),)) == ()
    assert concerns((started(kernel="6.1"),), (started(),)) == ()
    (reason,) = concerns((started(updates_running=True),), (started(), started()))
    assert (reason.facts["side"], reason.facts["boots"]) == (Side.BEFORE, 1)


@pytest.mark.parametrize(("slept", "said"), [(0.0, False), (1.0, False), (1.1, True)])
def test_a_second_of_sleep_is_no_sleep(slept, said):
    boot, other = (started(suspended_seconds=seconds) for seconds in (slept, 0.0))
    codes = {reason.code for reason in boot_concerns(boot, (other,))}
    assert (ReasonCode.SLEPT_MEANWHILE in codes) is said
    codes = {reason.code for reason in concerns((other,), (boot,))}
    assert (ReasonCode.BUSY_BOOTS in codes) is said


def test_a_step_lies_between_the_ends_of_its_date():
    rng = np.random.default_rng(5)
    values = [*(40 + rng.normal(0, 1.5, 12)), *(44 + rng.normal(0, 1.5, 12))]
    (step,) = steps_in(values)
    assert (step.earliest, step.at, step.latest) == (8, 12, 16)
    assert step.before < step.after


def test_spikes_may_fill_two_seconds_of_ten_and_no_more():
    def settled(spikes):
        quiet = [CALM] * 4 + [BUSY] * spikes + [CALM] * (30 - 4 - spikes)
        return find_settled(samples([BUSY] * 40 + quiet), after=10.0).seconds

    assert settled(2) == pytest.approx(40.0, abs=0.1)
    assert settled(3) > 46.0


def test_a_spike_lasts_as_long_as_its_interval():
    """Samples two seconds apart: one busy interval is two seconds, two are four."""

    def settled(spikes):
        curve = samples([BUSY] * 20 + [CALM] * 2 + [BUSY] * spikes + [CALM] * 20)
        slow = replace(curve, seconds=curve.seconds * 2, cpu_seconds=curve.cpu_seconds * 2)
        return find_settled(slow, after=10.0).seconds

    assert settled(1) == pytest.approx(40.0, abs=0.1)
    assert settled(2) > 46.0


def test_the_chain_goes_back_to_what_was_up_when_an_entry_was_asked_for():
    """What came up while it waited for the clock held nothing up."""
    asked_after = Activity(entry_id="lantern", waiting_from=2.0, starting_from=4.0, up_at=9.5)
    meanwhile = Activity(entry_id="foghorn", waiting_from=12.0, starting_from=12.0, up_at=19.5)
    waited = Activity(entry_id="windlass", waiting_from=10.0, starting_from=20.0, up_at=30.0)
    links = chain_to(30.0, (asked_after, meanwhile, waited))
    assert [link.entry_id for link in links] == ["lantern", "windlass"]
    at_once = replace(waited, waiting_from=None)
    links = chain_to(30.0, (asked_after, meanwhile, at_once))
    assert [link.entry_id for link in links][-2:] == ["foghorn", "windlass"]


@pytest.mark.parametrize(("seconds", "noticed_so"), [(2.9, False), (3.0, True)])
def test_an_installer_at_work_for_three_seconds_installs_updates(seconds, noticed_so):
    assert updates_running((run(1, 5, name="dpkg", cpu=((1.0, seconds),)),)) is noticed_so


@pytest.mark.parametrize(
    ("entry", "run_so", "likeness_is"),
    [
        ("/opt/till --tray", "/opt/till --tray", 4),
        ("till --tray", "/opt/till --tray", 3),
        ("/opt/till --tray", "/opt/till --tray --late", 2),
        ("/opt/till --tray --low", "/opt/till --tray --late", 1),
        ("/opt/till", "/usr/till", 0),
    ],
)
def test_how_alike_two_commands_are(entry, run_so, likeness_is):
    assert likeness(unwrapped(entry), unwrapped(run_so)) == likeness_is


def test_only_an_unproven_verdict_of_a_moving_machine_asks_for_turns():
    moved = replace(shift(), drift=0.05)
    assert not shift().drifts
    assert not moved.drifts
    assert replace(moved, verdict=Verdict.UNPROVEN).drifts
    assert not replace(shift(), verdict=Verdict.UNPROVEN).drifts
    assert replace(shift(), verdict=Verdict.UNPROVEN, line=True).drifts


@pytest.mark.parametrize("against", [300, 400, 480])
def test_the_chance_of_ranks_goes_over_into_its_approximation(against):
    both = 31
    assert 2 * both > ranks.MANY
    exact = sum(ranks._ways(both, both, u) for u in range(against + 1)) / comb(2 * both, both)
    assert ranks._chance(both, both, against) == pytest.approx(exact, abs=0.003)


def test_what_others_lend_is_bounded():
    own, others = [Centre(10.0, (1.0,) * 5, 8.0)], [Centre(20.0, (1.0,) * 11, 40.0)]
    assert _pooled(own, [], 3.0) == pytest.approx(2.0)
    assert _pooled(own, others, 5.0) == pytest.approx((8.0 + 20.0) / (4.0 + 5.0))
    assert _pooled(own, others, 50.0) == pytest.approx((8.0 + 40.0) / (4.0 + 10.0))
    assert _pooled([], [], 3.0) == 0.0


def test_a_file_system_without_a_number_of_files_is_as_full_as_its_room():
    one = FileSystem(mount="/", kind="x", size_bytes=100, free_bytes=75)
    assert one.full == pytest.approx(0.25)
    assert replace(one, inodes=10, inodes_free=1).full == pytest.approx(0.9)
    assert replace(one, size_bytes=0).full == 0.0


@pytest.mark.parametrize(
    ("whole", "without", "earlier"), [(8.0, 5.5, 2.5), (inf, 5.5, 0.0), (8.0, 0.0, 0.0)]
)
def test_what_never_came_comes_no_earlier(whole, without, earlier):
    assert _earlier(whole, without) == earlier


def test_every_time_is_told_in_tenths_of_a_second():
    times = [measure for measure in Measure if TERMS[measure].unit is Unit.SECONDS]
    assert {in_book_units(61.27, measure) for measure in times} == {613}


@pytest.mark.parametrize("measure", list(Measure))
def test_what_is_just_noticeable_is_a_twentieth_of_every_scale(measure):
    """So priors that are told in shares of a boot time mean as much in every measure."""
    scale, figure = Scale(measure, 40.0), 40.0
    step = 0.05 * figure if TERMS[measure].grows_with_size else noticeable_band(measure, figure)
    assert scale.to(figure + step) - scale.to(figure) == pytest.approx(0.05, rel=0.05)
    assert scale.back(scale.to(figure)) == pytest.approx(figure)


def test_odd_boots_are_as_far_from_others_as_they_typically_are():
    assert _distance((53.0, 54.0), 50.0) == pytest.approx((25 / 2) ** 0.5)


@pytest.mark.parametrize(
    ("plain", "lined", "room"), [(4.0, 3.0, True), (3.9, 2.9, False), (3.4, 3.0, False)]
)
def test_a_trend_beside_the_effects_needs_three_degrees_of_freedom_and_one_of_its_own(
    plain, lined, room
):
    some = np.ones(2)
    fits = (_Fitted(some, some, some, degrees) for degrees in (plain, lined))
    assert _has_room_for_a_line(*fits) is room
