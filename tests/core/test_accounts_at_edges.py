"""The accounting of a boot at its edges: nothing measured, the last sample, before and after
signing in.
"""

from dataclasses import replace
from datetime import UTC, datetime

import numpy as np
import pytest

from plucky_ledger.core.advice.evidence import busy_until_settled, held_by_program
from plucky_ledger.core.boots.attribution import Owner, OwnerKind
from plucky_ledger.core.boots.boot import Boot, How
from plucky_ledger.core.boots.boot_use import use_in
from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.core.boots.owner_use import OwnerUse
from plucky_ledger.core.boots.readings import readings_of
from plucky_ledger.core.boots.samples import Samples
from plucky_ledger.core.boots.settle import Settled
from plucky_ledger.core.boots.stock import picture_of
from plucky_ledger.core.boots.timeline import Activity
from plucky_ledger.core.boots.worked import with_figures
from plucky_ledger.core.replay.workload import SYSTEM_TASK
from plucky_ledger.core.replay.workload_of_boot import workload_of
from plucky_ledger.core.values.measures import Measure
from tests.helpers.runs import analysed, entry, real_analysis, run, samples

START = datetime(2026, 11, 2, 9, tzinfo=UTC)
COLUMNS = [
    "disk_read_bytes",
    "disk_written_bytes",
    "disk_busy_seconds",
    "memory_held_bytes",
    "processes",
    "own_cpu_seconds",
    "own_memory_bytes",
]


def test_the_recorders_own_work_never_makes_less_than_none():
    measured = replace(samples(2.0), own_cpu_seconds=np.linspace(0.0, 3.0, 11))
    settled = Settled(8.0, censored=False, own_rest=False)
    found = readings_of({Mark.SYSTEM_UP: 1.0}, measured, settled)
    assert found[Measure.CPU_WORK].value == 0.0


def test_a_picture_of_a_pc_is_of_its_last_moment_and_of_none_where_nothing_was_sampled():
    growing = replace(
        samples(10.0),
        memory_held_bytes=np.linspace(0.0, 1e9, 11),
        own_memory_bytes=np.full(11, 2e7),  # the recorder's
    )
    assert picture_of(analysed(samples=growing)).memory_bytes == 9.8e8
    unseen = picture_of(analysed(runs=(run(1, 10, started=0.5),)))
    assert (unseen.memory_bytes, dict(unseen.programs)) == (0.0, {})


@pytest.mark.parametrize(
    ("cpu", "read", "use"),
    [(None, None, OwnerUse(0.0, 0.0, 0.0, 0)), (0.6, 4e6, OwnerUse(0.6, 4e6, 0.0, 0))],
)
def test_what_ended_before_anybody_looked_did_what_its_manager_accounted(cpu, read, use):
    measured = samples(5.0)
    later = replace(measured, seconds=measured.seconds + 5.0)
    ended = Activity(
        entry_id="early.service",
        starting_from=1.0,
        up_at=5.0,
        ended_at=5.0,
        cpu_seconds=cpu,
        bytes_read=read,
    )
    analysis = analysed(
        samples=later,
        runs=(run(1, 10, started=6.0, cpu=((7.0, 1.0),)),),
        entries=(entry("early.service"),),
        activities=(ended,),
    )
    assert use_in(analysis, 12.0)[Owner(OwnerKind.ENTRY, "early.service")] == use


def test_the_systems_work_before_and_after_signing_in_is_two_tasks():
    workload = workload_of(real_analysis("slow-drive"))
    early, late = [task for task in workload.tasks if task.entry_id == SYSTEM_TASK]
    assert (early.at_sign_in, late.at_sign_in) == (False, True)
    assert early.table.cpu_work[-1] > 1.0
    assert late.table.cpu_work[-1] > 1.0


def test_only_what_was_idle_of_the_wait_at_sign_in_is_a_persons():
    """Whoever fetches coffee makes no PC quicker, nor one that works on meanwhile."""

    def settled(signed_in, busy_until):
        seconds = np.arange(0.0, signed_in + 60.0)
        busy = (seconds < busy_until) | ((seconds >= signed_in) & (seconds < signed_in + 5))
        cpu = np.concatenate(([0.0], np.cumsum(2.0 * busy)[:-1]))
        zero = np.zeros_like(seconds)
        curve = dict.fromkeys(COLUMNS, zero) | {"seconds": seconds, "cpu_seconds": cpu}
        marks = {Mark.SYSTEM_UP: 8.0, Mark.SIGN_IN_SHOWN: 10.0, Mark.SIGNED_IN: signed_in}
        boot = Boot(number=1, started_at=START, how=How.RECORDED, marks=marks)
        found = with_figures(analysed(boot, samples=Samples(**curve, cores=2)))
        assert with_figures(analysed(found, samples=Samples(**curve, cores=2))) == found
        return found.readings[Measure.SETTLED].value

    assert settled(40.0, busy_until=35.0) == pytest.approx(settled(100.0, busy_until=35.0), abs=1)
    assert settled(100.0, busy_until=100.0) - settled(100.0, busy_until=10.0) > 80.0
    assert settled(100.0, busy_until=10.0) == pytest.approx(15.0, abs=1.5)


def test_how_busy_a_start_was_leaves_the_recorder_out():
    measured = replace(samples(12.0), own_cpu_seconds=np.linspace(0.0, 2.0, 11))
    busy = busy_until_settled(analysed(samples=measured))
    assert busy.cpu == pytest.approx((12.0 - 2.0) / (10.0 * 2))
    assert held_by_program(analysed(runs=(run(1, 10, started=0.5, memory=1e6),))) == {"x": 0.0}
