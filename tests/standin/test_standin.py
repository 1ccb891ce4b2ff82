"""The stand-in PC as a fair yardstick: repeatable, obedient, and bound by its own hardware."""

from dataclasses import replace
from datetime import UTC, datetime
from random import Random

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from plucky_ledger.capture.sampling.recorder import record
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.exchange.boots import boot_from_bytes
from plucky_ledger.recording.writer import RecordingWriter
from plucky_ledger.standin.boot_run import LATER_SECONDS, Setup, Switch
from plucky_ledger.standin.machine import Hardware, Machine
from plucky_ledger.standin.museum import TICKET_DESK
from plucky_ledger.standin.program import (
    Await,
    Compute,
    Hold,
    Program,
    Read,
    Sleep,
    Spawn,
    Tell,
    Up,
    Write,
)
from plucky_ledger.wording.reasons import reason_in_words
from tests.helpers.standin import record_to, recorded, restarted
from tests.made_up_pcs.families import Family, made_up_pc

SSD = Hardware(rotating=False, disk_megabytes_per_second=500.0, seek_seconds=0.0001)


def machine(hardware=None, seed=1):
    return Machine(hardware or Hardware(), Random(seed))


def program(*actions):
    return Program("made-up", "/opt/made-up", actions)


def ended_at(box, *programs):
    """When the last of some programs ended."""
    processes = [box.start(one, 0, "/") for one in programs]
    box.run_until(10_000.0)
    assert all(process.ended is not None for process in processes)
    return max(process.ended for process in processes)


def test_the_same_seed_gives_the_same_recording(tmp_path):
    for name in ("a", "b"):
        record_to(tmp_path / f"{name}.jsonl", seed=11)
    record_to(tmp_path / "c.jsonl", seed=12)
    same, again, other = ((tmp_path / f"{name}.jsonl").read_bytes() for name in "abc")
    assert same == again
    assert same != other


def test_an_entry_switched_off_never_runs():
    boot = recorded(3, Setup((("saltmarsh-backup", Switch.OFF),)))
    assert "saltmarsh-backup" not in {entry.entry_id for entry in boot.timeline.entries}
    assert "saltmarsh-backup" not in {run.name for run in boot.timeline.runs}


def test_an_entry_set_to_later_starts_later():
    boot = TICKET_DESK.restart(
        Setup((("saltmarsh-backup", Switch.LATER),)), 3, datetime(2026, 11, 3, tzinfo=UTC)
    )
    boot.run.machine.run_until(260.0)
    signed_in = boot.run.machine.instant_of("signed in")
    assert boot.run.traces["saltmarsh-backup"].starting_from > signed_in + LATER_SECONDS


def test_switching_the_backup_off_is_known_to_save_time():
    """The stand-in knows an entry's true cost: it is run again without it."""
    without = Setup((("saltmarsh-backup", Switch.OFF),))
    truths = [restarted(seed)[1] - restarted(seed, without)[1] for seed in range(4)]
    assert min(truths) > 3.0


def test_services_wait_for_those_they_are_ordered_after():
    boot = recorded(5)
    up = {a.entry_id: a.up_at for a in boot.timeline.activities}
    for activity in boot.timeline.activities:
        for before in activity.after:
            assert activity.starting_from >= up[before] - 0.001


def test_what_was_left_behind_fails_and_says_so():
    (activity,) = [a for a in recorded(1).timeline.activities if a.entry_id == "windlass-toolbar"]
    assert activity.up_at is None
    assert "gone" in reason_in_words(activity.result)


@settings(max_examples=25)
@given(
    st.lists(
        st.lists(
            st.builds(Compute, st.floats(0.01, 3.0), st.integers(1, 4))
            | st.builds(Read, st.sampled_from("abc"), st.floats(0.1, 60), st.booleans())
            | st.builds(Write, st.floats(0.1, 20))
            | st.builds(Sleep, st.floats(0.01, 3))
            | st.builds(Hold, st.floats(1, 100)),
            min_size=1,
            max_size=5,
        ),
        min_size=1,
        max_size=6,
    ),
    st.integers(1, 8),
)
def test_no_more_is_used_than_there_is(programs, cores):
    """Cores and the disk are never used more than all the time; what is used adds up."""
    box = machine(replace(Hardware(), cores=cores))
    processes = [box.start(program(*actions), 0, "/") for actions in programs]
    box.run_until(10_000.0)
    last = max(process.ended for process in processes)
    assert box.cpu_seconds <= cores * last + 1e-6
    assert box.disk_busy_seconds <= last + 1e-6
    assert box.cpu_seconds == pytest.approx(sum(p.cpu_seconds for p in processes))
    assert box.megabytes_read == pytest.approx(sum(p.megabytes_read for p in processes))
    assert box.megabytes_held == 0.0


def test_two_programs_on_one_core_take_turns():
    alone = ended_at(machine(Hardware(cores=1)), program(Compute(2.0)))
    both = ended_at(machine(Hardware(cores=1)), program(Compute(2.0)), program(Compute(2.0)))
    spread = ended_at(machine(Hardware(cores=2)), program(Compute(2.0)), program(Compute(2.0)))
    assert both > 1.8 * alone
    assert spread < 1.3 * alone


def test_reading_side_by_side_costs_a_rotating_disk_its_seeks():
    one, two = program(Read("a", 50)), program(Read("b", 50))
    in_turn = ended_at(machine(), one) + ended_at(machine(), two)
    at_once = ended_at(machine(), one, two)
    assert at_once > 1.5 * in_turn
    assert ended_at(machine(SSD), one, two) < 1.2 * (
        ended_at(machine(SSD), one) + ended_at(machine(SSD), two)
    )


def test_what_the_page_cache_holds_is_not_read_again():
    box = machine()
    ended_at(box, program(Read("library", 60)))
    read = box.megabytes_read
    begin = box.now
    process = box.start(program(Read("library", 60)), 0, "/")
    box.run_until(begin + 1)
    assert process.ended == begin
    assert box.megabytes_read == read


def test_events_wake_all_who_wait():
    box = machine()
    waiting = [box.start(program(Await("bell"), Compute(0.1)), 0, "/") for _ in range(3)]
    box.run_until(5.0)
    assert all(process.ended is None for process in waiting)
    box.start(program(Tell("bell")), 0, "/")
    box.run_until(10.0)
    assert all(process.ended is not None for process in waiting)


def test_a_parent_inherits_what_its_ended_children_used():
    box = machine()
    parent = box.start(program(Spawn(program(Compute(1.0))), Sleep(20.0)), 0, "/")
    box.run_until(10.0)
    assert parent.children_cpu_seconds == pytest.approx(1.0, rel=0.2)


def test_up_is_told_once_and_before_what_follows():
    told = []
    box = machine()
    box.start(program(Sleep(1.0), Up(), Sleep(5.0)), 0, "/", on_up=lambda: told.append(box.now))
    box.run_until(20.0)
    assert len(told) == 1
    assert 0.7 < told[0] < 1.5


@pytest.mark.parametrize("family", list(Family))
def test_made_up_pcs_are_repeatable_and_keep_to_their_family(family):
    assert made_up_pc(family, 3) == made_up_pc(family, 3)
    assert made_up_pc(family, 3) != made_up_pc(family, 4)
    cores = {made_up_pc(family, seed).hardware.cores for seed in range(12)}
    if family is Family.ONE_CORE:
        assert cores == {1}
    if family is Family.FAST:
        assert min(cores) >= 4
        assert not made_up_pc(family, 1).hardware.rotating


def test_a_pc_that_never_settles_is_censored_by_its_recording(tmp_path):
    pc = made_up_pc(Family.NEVER_SETTLES, 2)
    boot = pc.restart(Setup(), 2, datetime(2026, 11, 3, tzinfo=UTC))
    path = tmp_path / "boot.jsonl"
    with RecordingWriter(path) as writer:
        record(boot, boot, writer, 180.0)
    settled = boot_from_bytes(path.read_bytes()).boot.readings[Measure.SETTLED]
    assert settled.censored
    assert settled.value > 150
    assert not recorded(2).boot.readings[Measure.SETTLED].censored
