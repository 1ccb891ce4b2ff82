"""What stays may miss what goes: a cache that was warmed for it, or what it looks for in steps."""

from dataclasses import replace

import numpy as np
import pytest

from plucky_ledger.core.boots.analysis import Analysis
from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.core.boots.samples import Samples
from plucky_ledger.core.boots.timeline import Activity
from plucky_ledger.core.replay import cost
from plucky_ledger.core.replay.cost import RoundReplay
from plucky_ledger.core.replay.side_effects import (
    LEAST_STEPS_MISSED,
    READ_AGAIN,
    Miss,
    SideEffect,
    side_effects,
)
from plucky_ledger.wording.entries import may_lose
from tests.helpers.runs import analysed, entry, real_analysis, run, samples
from tests.helpers.standin import recorded

MEGABYTE = 1e6


def settled_at(seconds: float, until: float = 60.0) -> Samples:
    """Busy until an instant, and calm from then on."""
    at = np.arange(0.0, until)
    flat = samples(0.0, end=until - 1, count=len(at))
    return replace(flat, cpu_seconds=np.minimum(at, seconds) * 1.5)


def boot(*runs, **up_at):
    """A boot that settles after 30 s; each entry is up when that is said."""
    made = analysed(
        samples=settled_at(30.0),
        runs=runs,
        entries=tuple(entry(name, f"/opt/{name}") for name in ("early", "late")),
        activities=tuple(Activity(entry_id=name, up_at=at) for name, at in up_at.items()),
    )
    return Analysis(replace(made.boot, marks={Mark.SYSTEM_UP: 5.0}), made.timeline)


def steps(starts, lasting=0.9, name="sleep"):
    """A script of `late` that waits again and again, and the short programs it starts for that."""
    script = run(1, 10, name="late", started=1.0)
    return script, *(
        run(2 + at, 20 + at, parent=10, name=name, started=start, ended=start + lasting)
        for at, start in enumerate(starts)
    )


def test_who_waits_in_steps_until_another_is_up_misses_it():
    (found,) = side_effects(boot(*steps([2, 3, 4, 5]), early=5.4), {})
    assert (found.entry_id, found.missed_by, found.how) == ("early", "late", Miss.POLLED)
    assert found.seconds == pytest.approx(LEAST_STEPS_MISSED * 1.0)


@pytest.mark.parametrize(
    ("runs", "up"),
    [
        (steps([2, 3, 4, 5, 6]), 15.0),  # it had stopped long before
        (steps([2, 3, 4]), 4.4),  # two pauses are no waiting
        (steps([2, 2.1, 5, 9, 9.5]), 10.0),  # no even steps
        (steps([2, 2.2, 2.4, 2.6, 2.8], lasting=5.0), 7.0),  # all at once
    ],
)
def test_what_is_no_waiting_for_it_says_nothing(runs, up):
    assert side_effects(boot(*runs, early=up), {}) == []


def read_early(read=200 * MEGABYTE, held=4 * MEGABYTE, ended=12.0):
    at = ((2.0, 0.5), (11.0, 1.0))
    one = run(1, 10, name="early", started=1.0, ended=ended, cpu=at, memory=held)
    return replace(one, bytes_read=np.array([read / 2, read]))


def holds(files, read=0.0, started=14.0):
    one = run(2, 11, name="late", started=started, cpu=((20.0, 1.0),), memory=files + MEGABYTE)
    flat = np.ones(1)
    return replace(
        one,
        shared_bytes=files * flat,
        proportional_bytes=(files + MEGABYTE) * flat,
        bytes_read=read * flat,
    )


def with_reads(found):
    """The drive's counter has what the programs have read."""
    read = np.interp(found.timeline.samples.seconds, [1, 11], [0, 4e8])
    with_it = replace(found.timeline.samples, disk_read_bytes=read)
    return replace(found, timeline=replace(found.timeline, samples=with_it))


def test_who_holds_files_that_another_read_shortly_before_misses_it():
    (found,) = side_effects(with_reads(boot(read_early(), holds(100 * MEGABYTE))), {"early": 8.0})
    assert (found.entry_id, found.missed_by, found.how) == ("early", "late", Miss.CACHE)
    # Half of what was read, or a little more: the drive gave it some of that only later.
    assert READ_AGAIN * 4.0 <= found.seconds < READ_AGAIN * 6.0


@pytest.mark.parametrize(
    ("first", "second"),
    [
        (read_early(held=150 * MEGABYTE), holds(100 * MEGABYTE)),  # it read for itself
        (read_early(read=5 * MEGABYTE), holds(100 * MEGABYTE)),
        (read_early(), holds(100 * MEGABYTE, read=95 * MEGABYTE)),  # it read them itself
        (read_early(), holds(100 * MEGABYTE, started=55.0)),  # long afterwards
    ],
)
def test_what_was_not_read_for_another_says_nothing(first, second):
    assert side_effects(with_reads(boot(first, second)), {"early": 8.0}) == []


def test_a_plan_that_cuts_such_a_chain_reaches_to_the_side_of_lost(monkeypatch):
    missed = SideEffect("saltmarsh-backup", "brassrail-till", Miss.POLLED, 40.0)
    monkeypatch.setattr(cost, "side_effects", lambda _analysis, _drive: [missed, missed])
    boots = [recorded(seed) for seed in (1, 2)]
    replay = RoundReplay([Analysis(one.boot, one.timeline) for one in boots])
    plan = replay.plan(frozenset({"saltmarsh-backup"}))
    assert plan.saved.low < 0 < plan.saved.value < plan.saved.high
    assert plan.settled.high > plan.settled.value + 40.0
    said = "Brassrail Till checks again and again until Saltmarsh Backup is running"
    assert said in may_lose(plan)
    both = replay.plan(frozenset({"saltmarsh-backup", "brassrail-till"}))
    assert both.warnings == ()
    assert may_lose(both) == ""


def test_boots_of_a_real_pc_without_such_a_chain_say_nothing():
    for name in ("baseline-01", "without-import-01", "slow-drive", "starved"):
        assert side_effects(real_analysis(name), {}) == [], name
