"""What is told of costs and of hardware only where it can be true."""

from dataclasses import replace
from datetime import UTC, datetime

import numpy as np
import pytest

from plucky_ledger.core.advice.evidence import Evidence
from plucky_ledger.core.advice.hardware import hardware_findings
from plucky_ledger.core.book.comparability import boot_concerns
from plucky_ledger.core.boots.boot import Boot, How
from plucky_ledger.core.boots.ends import with_ends
from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.core.boots.owner_use import OwnerUse
from plucky_ledger.core.boots.readings import readings_of, settled_of
from plucky_ledger.core.boots.timeline import Activity
from plucky_ledger.core.pc.arming import NIGHT_SHIFT
from plucky_ledger.core.pc.facts import Drive, DriveKind, Facts
from plucky_ledger.core.replay.certainty import not_known_yet
from plucky_ledger.core.replay.cost import RoundReplay
from plucky_ledger.core.replay.estimates import estimate
from plucky_ledger.core.replay.grades import Grade, GradeThresholds, grade_of
from plucky_ledger.core.replay.other_hardware import (
    MORE_BY_CORES,
    on_quicker_drive,
    on_quicker_processor,
)
from plucky_ledger.core.replay.startup_cost import StartupCost
from plucky_ledger.core.replay.workload_of_boot import workload_of
from plucky_ledger.core.values.measures import Measure, Reading
from plucky_ledger.core.values.reasons import ReasonCode
from plucky_ledger.exchange.facts import facts_from
from plucky_ledger.recording.lines import DriveFacts, PcFacts
from plucky_ledger.wording.reasons import reason_in_words
from tests.helpers.runs import analysed, entry, real_analysis, run, samples

WON_SETTLED, WON_UP = 21.2, 21.0
"""By a drive ten times as fast, on the captured PC: medians of three boots."""
BY_TWICE_SETTLED, BY_TWICE_UP = 18.1, 13.7
"""By a host that gives twice as much of a processor: medians of two boots each."""
START = datetime(2026, 11, 2, 9, tzinfo=UTC)
SETTLED = Measure.SETTLED
NOTHING = OwnerUse(0.0, 0.0, 0.0, 0)


def test_settled_comes_sooner_with_all_that_comes_before_it_on_a_quicker_drive():
    replay = RoundReplay([real_analysis("slow-drive")])
    plan = replay.on_other_hardware(on_quicker_drive)
    assert (plan.processes, plan.memory_bytes) == (0, 0.0)
    assert plan.saved.low < WON_SETTLED < plan.saved.high
    assert plan.up_saved.low < WON_UP < plan.up_saved.high
    assert abs(plan.saved.value - plan.up_saved.value) < 4.0
    plain = replay.on_other_hardware(on_quicker_processor).saved
    wider = replay.on_other_hardware(on_quicker_processor, MORE_BY_CORES).saved
    assert (wider.value, wider.low) == (plain.value, plain.low)
    assert wider.high == pytest.approx(plain.high + MORE_BY_CORES * plain.value)
    on_slow_cores = RoundReplay([real_analysis("baseline-01")])
    most = on_slow_cores.on_other_hardware(on_quicker_processor, MORE_BY_CORES).saved
    assert most.high < 30  # it settled after 60 s


def test_a_pc_that_a_host_gives_little_wins_by_twice_as_much_what_it_won():
    """Its programs waited for cores that were never full: its processor was short all the same."""
    starved = real_analysis("starved")
    plan = RoundReplay([starved]).on_other_hardware(on_quicker_processor, MORE_BY_CORES)
    assert plan.saved.low < BY_TWICE_SETTLED < plan.saved.high
    assert plan.up_saved.low < BY_TWICE_UP < plan.up_saved.high
    assert workload_of(starved).capacity == pytest.approx(0.6, abs=0.03)
    assert workload_of(real_analysis("baseline-01")).capacity == 2.0


def cost(delays, memory=0.0):
    use = replace(NOTHING, memory_bytes=memory)
    found = estimate(delays)
    known = StartupCost(
        entry_id="x", settled=found, system_up=None, use=use, per_boot=tuple(delays), boots=3
    )
    return replace(known, no_grade=not_known_yet(known, 60.0, GradeThresholds()))


def graded(costs, memory_total=8e9):
    return grade_of(costs, 60.0, memory_total, GradeThresholds())


def test_what_may_be_nothing_and_may_be_much_is_not_known_yet():
    unsure = cost([0.2, 2.1, 4.4])
    assert graded(unsure) is Grade.NOT_KNOWN_YET
    assert "more boots would tell" in reason_in_words(unsure.no_grade)
    assert graded(cost([0.2, 2.1, 4.4], memory=1e9)) is Grade.HEAVY  # that is certain
    assert graded(cost([0.1, 0.2, 0.1])) is Grade.NEGLIGIBLE
    assert graded(cost([4.0, 4.2, 4.1])) is Grade.HEAVY
    assert not_known_yet(replace(unsure, settled=None), 60.0, GradeThresholds()) is None
    assert not_known_yet(unsure, 0.0, GradeThresholds()) is None
    scattered = cost([0.5, -40.0, 41.0, 60.0])
    assert scattered.settled.high - scattered.settled.low > 60.0
    assert reason_in_words(scattered.no_grade) == "not known yet"


def test_so_many_more_boots_tell_it():
    """Boots that scatter like those there are: it is then something, or not much."""
    delays = [0.6, 1.5, 2.4]
    reason = cost(delays).no_grade
    assert reason.facts["more"] == 2
    assert not_known_yet(cost([*delays, 0.6, 2.4]), 60.0, GradeThresholds()) is None
    wild = cost([-0.5, 1.5, 3.5]).no_grade
    assert wild.facts["more"] > 1


@pytest.mark.parametrize(("waited", "known"), [(3.9, True), (94.2, False)])
def test_nothing_is_held_up_longer_than_it_was_there(waited, known):
    one = entry("x.service", command="/opt/x", group="/x")
    boot = Boot(number=1, started_at=START, how=How.RECORDED, readings={SETTLED: Reading(10.0)})
    did = Activity(entry_id="x.service", starting_from=6.0, up_at=8.0, cpu_pressure_seconds=waited)
    analysis = analysed(
        boot,
        samples=samples(5.0),
        runs=(run(1, 10, group="/x", command="/opt/x"),),
        entries=(one,),
        activities=(did,),
    )
    (found,) = RoundReplay([analysis]).cost_of(["x.service"])
    assert (found.held_up[0] is not None) is known


def test_a_virtual_drive_is_of_unknown_kind_and_nobody_is_told_to_buy_another():
    told = PcFacts(
        drives=(
            DriveFacts("vda", True, 10**10),
            DriveFacts("sda", True, 10**10, virtual=True),
            DriveFacts("sdb", True, 10**10),
        )
    )
    drives = facts_from(told).drives
    assert [drive.kind for drive in drives] == [
        DriveKind.UNKNOWN,
        DriveKind.UNKNOWN,
        DriveKind.ROTATING,
    ]
    working = replace(samples(1.0), disk_busy_seconds=np.linspace(0.0, 9.5, 11))
    for some, advised in ((drives[:2], False), (drives, True), ((), True)):
        evidence = Evidence(
            facts=Facts(drives=some), taken_in_at=None, recorded=(analysed(samples=working),)
        )
        found = [finding.rule for finding in hardware_findings(evidence)]
        assert ("drive_pinned" in found) is advised, some
    assert Drive("sda", DriveKind.ROTATING, 1).virtual is False


def test_a_boot_in_which_nobody_signed_in_never_settled():
    shown = {Mark.SYSTEM_UP: 5.0, Mark.SIGN_IN_SHOWN: 6.0}
    quiet = samples(0.1, end=60.0, count=61)
    assert settled_of(shown, quiet) is None
    assert Measure.SETTLED not in readings_of(shown, quiet, None)
    signed_in = {**shown, Mark.SIGNED_IN: 7.0}
    assert settled_of(signed_in, quiet) is not None
    boot = Boot(number=1, started_at=START, how=How.RECORDED, marks=shown)
    assert ReasonCode.NOBODY_SIGNED_IN in {reason.code for reason in boot_concerns(boot, ())}


def test_a_nights_own_agent_is_in_no_figure():
    agent = run(2, 20, name="python3", group=f"/system.slice/{NIGHT_SHIFT}", memory=40e6)
    held_bytes = np.full(11, 1e9)
    whole = replace(samples(1.0), memory_held_bytes=held_bytes, processes=np.full(11, 2.0))
    analysis = analysed(samples=whole, runs=(run(1, 10, memory=1e6), agent))
    held, plain = analysis.samples.memory_held_bytes, analysis.timeline.samples.memory_held_bytes
    assert plain[-1] - held[-1] == pytest.approx(40e6)
    assert analysis.samples.processes[-1] == analysis.timeline.samples.processes[-1] - 1


def test_a_finished_oneshot_of_an_older_recording_was_up_when_it_ended():
    """By its manager, or with the last program of its group; where nothing tells, it is not known
    what it costs in system up.
    """
    entries = [entry(f"{name}.service", group=f"/{name}") for name in ("told", "seen", "on")]
    runs = [
        run(1, 10, group="/seen", ended=5.0),
        run(2, 11, group="/seen", ended=7.0),
        run(3, 12, group="/on", ended=5.0),
        run(4, 13, group="/on"),
    ]
    began = {"waiting_from": 1.0, "starting_from": 2.0}
    activities = [
        Activity(entry_id="told.service", ended_at=4.0, **began),
        Activity(entry_id="seen.service", **began),
        Activity(entry_id="on.service", **began),
    ]
    ups = {one.entry_id: one.up_at for one in with_ends(activities, entries, runs)}
    assert ups == {"told.service": 4.0, "seen.service": 7.0, "on.service": None}
    recorded = real_analysis("baseline-01")
    name = "harborledger-import.service"
    known = {one.entry_id: one for one in recorded.timeline.activities}
    silent = replace(known[name], up_at=None, ended_at=None)
    others = [one for one in recorded.timeline.activities if one.entry_id != name]
    without = replace(recorded.timeline, activities=(*others, silent))
    (told,) = RoundReplay([recorded]).cost_of([name])
    (untold,) = RoundReplay([replace(recorded, timeline=without)]).cost_of([name])
    assert told.system_up.value > 5
    assert untold.system_up is None
