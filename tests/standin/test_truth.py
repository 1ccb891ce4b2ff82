"""The yardstick itself: generated PCs are repeatable, and their truth follows from what they do."""

from dataclasses import replace

import pytest

from plucky_ledger.standin.boot_run import Setup, Switch
from plucky_ledger.standin.machine import Hardware
from plucky_ledger.standin.museum import DESKTOP, GIFT_SHOP, SYSTEM_SERVICES, TICKET_DESK
from plucky_ledger.standin.pc import StandinPc
from plucky_ledger.standin.program import Compute, Entry, Hold, Program, Sleep, Stay, Up
from tests.made_up_pcs.scenarios import JUDGED_ON, TUNED_ON, Scenario, scenario_pc
from tests.made_up_pcs.truth import _calm_from, true_boot, true_saving, without


def pc_with(*actions, cores=4, **more):
    program = Program("made-up", "/opt/made-up", (*actions, Stay(9, 0.004)), 1000)
    one = Entry(
        entry_id="made-up",
        name="Made-up",
        program=program,
        kind="sign-in program",
        origin="/etc/made-up",
        at_sign_in=True,
        **more,
    )
    hardware = Hardware(
        cores=cores,
        core_speed=1.0,
        disk_megabytes_per_second=500.0,
        seek_seconds=0.0001,
        memory_megabytes=8192,
        rotating=False,
    )
    return StandinPc(
        hardware=hardware,
        entries=(*SYSTEM_SERVICES, DESKTOP, one),
        os_release="x",
        cpu_model="y",
        kernel="z",
    )


def test_what_is_tuned_on_is_not_judged_on():
    assert set(TUNED_ON) | set(JUDGED_ON) == set(Scenario)
    assert not set(TUNED_ON) & set(JUDGED_ON)


@pytest.mark.parametrize("scenario", list(Scenario))
def test_a_generated_pc_is_repeatable_and_settles(scenario):
    assert scenario_pc(scenario, 3) == scenario_pc(scenario, 3)
    assert scenario_pc(scenario, 3) != scenario_pc(scenario, 4)
    boot = true_boot(scenario_pc(scenario, 3), 1)
    assert boot == true_boot(scenario_pc(scenario, 3), 1)
    assert 8 < boot.system_up <= boot.settled + 1 < 290


def test_taking_out_what_does_nothing_changes_nothing():
    """Every program draws its chances from a stream of its own: the others run as they did."""
    pc = pc_with(Hold(5), Up())
    assert true_saving(pc, without("made-up"), range(3)).settled == pytest.approx(0.0, abs=0.02)


def test_the_truth_of_work_that_nobody_hides_is_the_work():
    saving = true_saving(pc_with(Compute(9.0), Up()), without("made-up"), range(3))
    desktop = true_boot(pc_with(Up()), 0).settled
    whole = true_boot(pc_with(Compute(9.0), Up()), 0).settled
    assert saving.settled == pytest.approx(whole - desktop, abs=0.5)
    assert 5 < saving.settled <= 9.5
    assert saving.system_up == 0.0


def test_later_and_off_win_the_same_seconds():
    pc = pc_with(Compute(9.0), Up())
    later = Setup((("made-up", Switch.LATER),))
    assert true_saving(pc, later, range(2)).settled == pytest.approx(
        true_saving(pc, without("made-up"), range(2)).settled, abs=0.1
    )


def test_nobody_waits_for_what_is_set_to_start_later_or_started_by_a_timer():
    pc = TICKET_DESK
    later = Setup((("wireless-setup.service", Switch.LATER),))
    assert true_boot(pc, 1, later).system_up < true_boot(pc, 1).system_up
    timed = tuple(
        replace(one, timer_seconds=60.0) if one.entry_id == "time-sync.service" else one
        for one in pc.entries
    )
    assert true_boot(replace(pc, entries=timed), 1).system_up <= true_boot(pc, 1).system_up


@pytest.mark.parametrize(
    ("work", "calm"),
    [
        ([[5.0, 20.0]], 20.0),
        ([[5.0, 20.0], [26.0, 27.5]], 20.0),
        ([[5.0, 20.0], [26.0, 29.0]], 29.0),
        ([[5.0, 20.0], [21.0, 21.9]], 21.9),
        ([[5.0, 20.0], [60.0, 80.0]], 20.0),
        ([], 10.0),
    ],
)
def test_settled_is_true_from_the_first_calm_on(work, calm):
    """Spikes may take a fifth of ten seconds, and of the first three; much later work is later."""
    assert _calm_from(work, 10.0) == calm


def test_the_gift_shop_gains_by_both_of_its_changes():
    for entry_id in ("lanternprint-agent", "ropewalk-messenger"):
        assert true_saving(GIFT_SHOP, without(entry_id), range(2)).settled > 1.0


def test_an_entry_that_only_waits_costs_nothing_at_rest():
    pc = pc_with(Sleep(14.0), Up())
    assert true_saving(pc, without("made-up"), range(2)).settled == pytest.approx(0.0, abs=0.1)
