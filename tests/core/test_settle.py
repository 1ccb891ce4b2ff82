"""Settled against curves of known shape and against the stand-in PC's own truth."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plucky_ledger.core.boots.marks import Mark, human_wait, machine_seconds
from plucky_ledger.core.boots.readings import readings_of, settled_of
from plucky_ledger.core.boots.samples import Samples
from plucky_ledger.core.boots.settle import find_settled
from plucky_ledger.core.boots.stages import Stage, StageKind, stages_of
from plucky_ledger.core.values.measures import Measure
from tests.helpers.standin import restarted


def samples(cpu_share, disk_share=None, cores=2, own=0.0):
    """A sample a second with the given shares in between."""
    cpu = np.asarray(cpu_share, dtype=float)
    disk = np.zeros_like(cpu) if disk_share is None else np.asarray(disk_share, dtype=float)
    seconds = np.arange(len(cpu) + 1, dtype=float)
    grown = np.concatenate(([0.0], np.cumsum(cpu * cores)))
    zero = np.zeros_like(seconds)
    return Samples(
        seconds=seconds,
        cpu_seconds=grown + own * seconds,
        disk_read_bytes=zero,
        disk_written_bytes=zero,
        disk_busy_seconds=np.concatenate(([0.0], np.cumsum(disk))),
        memory_held_bytes=zero + 1e9,
        processes=zero + 101,
        own_cpu_seconds=own * seconds,
        own_memory_bytes=zero,
        cores=cores,
        memory_total_bytes=4e9,
    )


BUSY, CALM = 0.9, 0.03


def figures(marks, curve):
    """Of a boot with these marks and samples."""
    return readings_of(marks, curve, settled_of(marks, curve))


@pytest.mark.parametrize(
    ("up", "shares", "seen"),
    [
        (1.0, [CALM] * 40, False),
        (1.0, [BUSY] + [CALM] * 40, True),  # at work in the first second that was recorded
        (6.0, [CALM] * 40, True),  # it could not have settled much earlier
    ],
)
def test_who_comes_late_has_not_seen_a_calm_pc_settle(up, shares, seen):
    recorded = samples(shares)
    late = replace(recorded, seconds=recorded.seconds + 10.0)
    assert settled_of({Mark.SYSTEM_UP: up}, late).unseen is not seen


@pytest.mark.parametrize(
    ("shares", "settled"),
    [
        ([BUSY] * 40 + [CALM] * 30, 40.0),
        ([BUSY] * 40 + [CALM] * 5 + [BUSY] + [CALM] * 30, 40.0),  # a single spike
        ([BUSY] * 40 + [CALM] * 6 + [BUSY] * 8 + [CALM] * 30, 54.0),  # a breath is no rest
        ([BUSY] * 39 + [BUSY / 2] + [CALM] * 30, 39.5),  # within the last busy second
    ],
)
def test_settled_is_where_the_calm_begins(shares, settled):
    found = find_settled(samples(shares), after=10.0)
    assert not found.censored
    assert found.seconds == pytest.approx(settled, abs=0.1)


@pytest.mark.parametrize("extra", [0.1, 0.2, 0.3])
@pytest.mark.parametrize("at", range(38, 50))
def test_settled_does_not_hang_on_one_sample(at, extra):
    """A little work in any one second about it moves it by no more than that second."""
    shares = np.array([BUSY] * 40 + [0.1, 0.08, 0.11, CALM, 0.1] * 6)
    plain = find_settled(samples(shares), after=10.0).seconds
    shares[at] += extra
    assert abs(find_settled(samples(shares), after=10.0).seconds - plain) <= 2.0


def test_what_only_just_ended_is_not_held_at_rest():
    """A helper that goes away some seconds after settled; what comes later is no matter."""
    plain = samples([BUSY] * 40 + [CALM] * 45)
    late = np.where(plain.seconds > 80, 3, 0)
    helper = plain.seconds < 55
    curve = replace(
        plain,
        processes=plain.processes + 4 * helper + late,
        memory_held_bytes=plain.memory_held_bytes + 80e6 * helper + 1e6 * late,
    )
    readings = figures({}, curve)
    assert readings[Measure.SETTLED].value == pytest.approx(40.0, abs=0.1)
    assert readings[Measure.PROCESSES].value == 100
    assert readings[Measure.MEMORY_HELD].value == pytest.approx(1000.0)


def test_a_busy_disk_is_no_calm_even_when_the_cpu_idles():
    found = find_settled(samples([CALM] * 70, [1.0] * 50 + [0.0] * 20), after=10.0)
    assert found.seconds == pytest.approx(50.0, abs=0.1)


def test_a_boot_that_never_calms_is_censored_not_guessed():
    found = find_settled(samples([BUSY] * 90), after=10.0)
    assert (found.censored, found.seconds) == (True, 90.0)


def test_too_short_a_calm_at_the_end_is_not_yet_settled():
    found = find_settled(samples([BUSY] * 40 + [CALM] * 6), after=10.0)
    assert (found.censored, found.seconds) == (True, 40.0)


def test_a_pc_that_never_rests_completely_is_held_against_its_own_rest():
    found = find_settled(samples([BUSY] * 40 + [0.3] * 90), after=10.0)
    assert found.own_rest
    assert found.seconds == pytest.approx(40.0, abs=0.6)


@pytest.mark.parametrize("pinned", [{"cpu_share": 0.65}, {"disk_share": 0.65}])
def test_a_pc_at_two_thirds_of_its_limit_does_not_rest(pinned):
    """However evenly it goes on: what is at work is no rest of the PC's own."""
    shares = {"cpu_share": 0.05, **pinned}
    found = find_settled(samples(**{name: [share] * 130 for name, share in shares.items()}), 10.0)
    assert found.censored
    assert not found.own_rest


def test_the_recorders_own_work_neither_delays_nor_costs():
    """A recorder that takes 40 % of a core changes no figure but its own."""
    shares = [BUSY] * 40 + [CALM] * 40
    plain, measured = (figures({}, samples(shares, own=own)) for own in (0.0, 0.4))
    for measure in (Measure.SETTLED, Measure.CPU_WORK, Measure.LOAD_AT_REST):
        assert measured[measure].value == pytest.approx(plain[measure].value, abs=0.05)


def test_counters_that_go_backwards_do_not_break_a_boot():
    curve = samples([BUSY] * 40 + [CALM] * 40)
    curve.cpu_seconds[60:] -= 50.0
    readings = figures({}, curve)
    assert readings[Measure.SETTLED].value == pytest.approx(40.0, abs=0.1)
    assert readings[Measure.CPU_WORK].value == pytest.approx(72.0, abs=1.0)


def test_the_sign_in_wait_is_never_charged():
    marks = {Mark.SIGN_IN_SHOWN: 20.0, Mark.SIGNED_IN: 80.0}
    assert human_wait(marks) == 60.0
    assert [machine_seconds(t, marks) for t in (15, 50, 100)] == [15, 20, 40]
    curve = samples([BUSY] * 20 + [CALM] * 60 + [BUSY] * 30 + [CALM] * 30)
    assert figures(marks, curve)[Measure.SETTLED].value == pytest.approx(50.0, abs=0.1)


def test_a_passphrase_that_was_waited_for_is_never_charged_either():
    marks = {
        Mark.PASSPHRASE_ASKED: 3.0,
        Mark.PASSPHRASE_GIVEN: 33.0,
        Mark.SYSTEM_UP: 50.0,
        Mark.SIGN_IN_SHOWN: 50.0,
        Mark.SIGNED_IN: 60.0,
    }
    assert human_wait(marks) == 40.0
    assert [machine_seconds(t, marks) for t in (2, 20, 40, 55, 70)] == [2, 3, 10, 20, 30]
    assert figures(marks, None)[Measure.SYSTEM_UP].value == 20.0
    reported = (Stage(StageKind.KERNEL, 0.0, 2.0), Stage(StageKind.INITRD, 2.0, 36.0))
    kinds = [(stage.kind, stage.start, stage.end) for stage in stages_of(marks, reported, 80.0)]
    assert kinds[1:4] == [
        (StageKind.INITRD, 2.0, 3.0),
        (StageKind.PASSPHRASE_WAIT, 3.0, 33.0),
        (StageKind.INITRD, 33.0, 36.0),
    ]


@given(st.lists(st.floats(0, 1000), min_size=4, max_size=4), st.floats(0, 2000))
def test_machine_seconds_only_ever_go_on(instants, at):
    """Whatever the waits: no later instant comes sooner, and none comes later than it fell."""
    four = (Mark.PASSPHRASE_ASKED, Mark.PASSPHRASE_GIVEN, Mark.SIGN_IN_SHOWN, Mark.SIGNED_IN)
    marks = dict(zip(four, sorted(instants), strict=True))
    assert machine_seconds(at, marks) <= at
    assert machine_seconds(at, marks) <= machine_seconds(at + 1, marks) + 1e-9
    late = machine_seconds(3000.0, marks)
    assert late == pytest.approx(3000.0 - human_wait(marks))


@pytest.mark.study
def test_settled_is_within_a_second_of_the_stand_ins_truth():
    """In at least 95 of 100 boots of the demo's PC."""
    close = 0
    for seed in range(60):
        recorded, truth = restarted(seed)
        marks = recorded.boot.marks
        settled = recorded.boot.readings[Measure.SETTLED]
        close += abs(settled.value - machine_seconds(truth, marks)) <= 1.0
    assert close >= 57
