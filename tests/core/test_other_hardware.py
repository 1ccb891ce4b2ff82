"""The same boot on other hardware: what a made-up task of so many seconds is there."""

from dataclasses import replace

import numpy as np
import pytest

from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.core.boots.unlisted import OF_GROUP
from plucky_ledger.core.replay.other_hardware import (
    QUICKER_DRIVE,
    QUICKER_PROCESSOR,
    on_quicker_drive,
    on_quicker_processor,
    with_more_memory,
)
from plucky_ledger.core.replay.workload import STEP_SECONDS, Table, Task, Workload

SECONDS = 10.0
OWN = np.arange(int(SECONDS / STEP_SECONDS) + 1) * STEP_SECONDS
NOTHING = np.zeros_like(OWN)


def table(cpu=0.0, disk=0.0, waits=(0.0, 0.0)):
    """Shares of its time that it computes, reads, and waits for cores and for the drive."""
    return Table(
        cpu_time=cpu * OWN,
        cpu_work=cpu * OWN,
        disk_time=disk * OWN,
        disk_work=disk * OWN,
        held_up=(waits[0] * OWN, waits[1] * OWN),
        length=SECONDS,
    )


def workload(made, moved_before=0.0, **more):
    task = Task(
        entry_id="foghorn.service",
        table=made,
        relative_io_cost=1.0,
        seek_discount=0.0,
        up_after=SECONDS / 2,
        after=(),
        at_sign_in=False,
        lag=3.0,
    )
    made_up = {
        "cores": 2,
        "capacity": 2.0,
        "signed_in": 20.0,
        "sign_in_task": None,
        "sign_in_lag": 0.0,
        "sign_in_wait": 0.0,
        "system_up": 8.0,
        "system_tasks": frozenset(),
        "desktop_task": None,
        "desktop_shown": 0.0,
        "end": 60.0,
    }
    return Workload(tasks=(task,), moved_before=moved_before, **(made_up | more))


@pytest.mark.parametrize(
    ("quicker", "made", "length"),
    [
        (on_quicker_drive, table(disk=1.0), SECONDS / QUICKER_DRIVE),
        (on_quicker_drive, table(cpu=1.0), SECONDS),
        (on_quicker_drive, table(cpu=0.6, disk=0.4), 6.0 + 4.0 / QUICKER_DRIVE),
        (on_quicker_processor, table(cpu=1.0), SECONDS / QUICKER_PROCESSOR),
        (on_quicker_processor, table(disk=1.0), SECONDS),
        (with_more_memory(0.5), table(disk=1.0), SECONDS / 2),
        # Until it is up, after five seconds, it waits for what it knows; then for who has the part.
        (on_quicker_drive, table(waits=(0.0, 1.0)), 5.0 + 5.0 / QUICKER_DRIVE),
        (on_quicker_processor, table(waits=(1.0, 0.0)), 5.0 + 5.0 / QUICKER_PROCESSOR),
        (on_quicker_drive, table(waits=(1.0, 0.0)), SECONDS),
    ],
)
def test_what_needs_a_part_takes_so_much_less_and_nothing_else_does(quicker, made, length):
    (task,) = quicker(workload(made)).tasks
    assert task.table.length == pytest.approx(length)
    assert task.lag == 3.0


def test_what_is_done_stays_the_same_but_for_the_drives_time():
    before = table(cpu=0.6, disk=0.4)
    (task,) = on_quicker_drive(workload(before)).tasks
    assert task.table.cpu_work[-1] == pytest.approx(before.cpu_work[-1])
    assert task.table.disk_work[-1] == pytest.approx(before.disk_work[-1] / QUICKER_DRIVE)
    assert task.up_after == pytest.approx(5.0 - 0.9 * 0.4 * 5.0)


def test_what_the_kernel_read_before_the_first_service_brings_all_forward():
    quicker = on_quicker_drive(workload(table(cpu=1.0), moved_before=2.0))
    assert quicker.tasks[0].lag == pytest.approx(3.0 - 0.9 * 2.0)
    assert quicker.signed_in == pytest.approx(20.0 - 0.9 * 2.0)
    never = replace(workload(table(cpu=1.0), moved_before=2.0), signed_in=0.0)
    assert on_quicker_drive(never).signed_in == 0.0
    most = on_quicker_drive(workload(table(cpu=1.0), moved_before=30.0))
    assert most.tasks[0].lag == pytest.approx(0.3)


def test_a_pause_at_sign_in_is_marked_where_there_was_one():
    waited = workload(table(), sign_in_wait=4.0)
    assert waited.marks(20.0) == {Mark.SIGN_IN_SHOWN: 16.0, Mark.SIGNED_IN: 20.0}
    assert waited.marks(np.inf) == {}
    assert workload(table()).marks(20.0) == {}


def test_the_share_of_what_no_manager_told_of_counts_all_that_was_done():
    late = NOTHING.copy()
    late[-1] = 5.0
    whole = workload(table(cpu=1.5))
    (task,) = whole.tasks
    unlisted = replace(task, entry_id=f"{OF_GROUP}/ropewalk", table=replace(table(), cpu_work=late))
    assert replace(whole, tasks=(task, unlisted)).unlisted_share == pytest.approx(5.0 / 20.0)
