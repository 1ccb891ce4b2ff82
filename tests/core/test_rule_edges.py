"""Why it is slow: each rule holds from its threshold on, and not just below it."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta

import numpy as np
import pytest

from plucky_ledger.core.advice import rules
from plucky_ledger.core.advice.evidence import Evidence
from plucky_ledger.core.advice.finding import Stretch, Tally
from plucky_ledger.core.advice.hardware import hardware_findings
from plucky_ledger.core.advice.starting import starting_findings
from plucky_ledger.core.advice.upkeep import upkeep_findings
from plucky_ledger.core.boots.boot import Boot, Context, How, PowerSource, StartKind
from plucky_ledger.core.boots.stages import Stage, StageKind
from plucky_ledger.core.boots.stock import BeyondStock
from plucky_ledger.core.boots.timeline import Activity
from plucky_ledger.core.job.advised import RuleCode
from plucky_ledger.core.pc.condition import Condition, DriveHealth, FileSystem, MemoryModule
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.replay.startup_cost import PlanEstimate
from plucky_ledger.core.values.estimates import Estimate
from plucky_ledger.core.values.measures import Measure, Reading
from plucky_ledger.core.values.reasons import Reason, ReasonCode
from tests.helpers.runs import analysed, entry, samples

GB = 1e9
TAKEN_IN = datetime(2026, 11, 2, 9, tzinfo=UTC)
DAY = timedelta(days=1)


def boot(**more):
    return Boot(number=1, started_at=TAKEN_IN, how=How.RECORDED, **more)


def start(processes=100.0, held=1000.0, **timeline):
    """A recorded start with these figures, whatever its samples say."""
    figures = {Measure.PROCESSES: processes, Measure.MEMORY_HELD: held}
    analysis = analysed(boot(), **timeline)
    vars(analysis)["readings"] = {measure: Reading(value) for measure, value in figures.items()}
    vars(analysis)["settled"] = None
    return analysis


def evidence(condition=None, memory=8 * GB, uptime=0.0, **more):
    facts = Facts(memory_bytes=int(memory), uptime_seconds=uptime, cores=2)
    return Evidence(facts=facts, taken_in_at=TAKEN_IN, condition=condition or Condition(), **more)


def room(free, system=True, inodes_free=50, size=100 * GB):
    one = FileSystem(
        mount="/",
        kind="ext4",
        size_bytes=int(size),
        free_bytes=int(free),
        inodes=1000,
        inodes_free=inodes_free,
        system=system,
    )
    return evidence(Condition(file_systems=(one,)))


def started(*kinds):
    return evidence(starts=tuple(boot(context=Context(start_kind=kind)) for kind in kinds))


def started_on(*days):
    return evidence(
        starts=tuple(replace(boot(), started_at=TAKEN_IN - day * DAY) for day in sorted(days)[::-1])
    )


def rested(held, age=86_400.0):
    later = samples(1.0)
    old = start(held=held, samples=replace(later, seconds=later.seconds + age))
    return evidence(recorded=(start(),), at_rest=(old,))


def beyond(processes, of=60.0):
    more = BeyondStock(processes, (), (), 0.0)
    return evidence(recorded=(start(of),), beyond_stock=more)


def drive(**state):
    return evidence(Condition(drives=(DriveHealth(name="sda", **state),)))


def plan(least, settled=100.0):
    saved = Estimate(10.0, least, 20.0)
    quicker = PlanEstimate(
        settled=saved, system_up=saved, saved=saved, up_saved=saved, memory_bytes=0.0, processes=0
    )
    return {
        "settled_seconds": settled,
        "quicker_drive": quicker,
        "quicker_processor": quicker,
    }


def busy(disk=0.0, cpu=0.0, read=0.0, **more):
    curve = samples(cpu * 20, read=read, cores=2)
    working = replace(curve, disk_busy_seconds=np.linspace(0.0, disk * 10, 11))
    return evidence(recorded=(start(samples=working),), **more)


def memory(held=1000.0, swapped=0, compressed=False, killed=0, waits=0.0):
    curve = replace(samples(1.0), memory_pressure_seconds=np.linspace(0.0, waits * 10, 11))
    condition = Condition(
        swap_used_bytes=swapped, swap_compressed=compressed, killed_for_memory=killed
    )
    return evidence(condition, memory=10 * GB, recorded=(start(held=held, samples=curve),))


def throttled(times):
    return evidence(Condition(throttled=times))


def held_down(limit, power=PowerSource.MAINS, profile=""):
    condition = Condition(frequency_limit=limit, power_profile=profile)
    return evidence(condition, recorded=(analysed(boot(context=Context(power_source=power))),))


def loader(*seconds):
    stages = [Stage(StageKind.LOADER, -length, 0.0) for length in seconds]
    return evidence(recorded=tuple(start(stages=(stage,)) for stage in stages))


def failing(*lengths, cpu=0.0, restarts=None, failed=True):
    result = Reason(ReasonCode.PROGRAM_GONE) if failed else None
    names = [f"entry-{number}" for number in range(len(lengths))]
    activities = tuple(
        Activity(
            entry_id=name,
            starting_from=2.0,
            ended_at=2.0 + length,
            result=result,
            cpu_seconds=cpu,
            restarts=restarts,
        )
        for name, length in zip(names, lengths, strict=True)
    )
    entries = tuple(entry(name) for name in names)
    return evidence(recorded=(start(activities=activities, entries=entries),))


def updated(*running):
    return evidence(
        recorded=tuple(analysed(boot(context=Context(updates_running=one))) for one in running)
    )


def guards(*packages, part_of_system=False):
    entries = tuple(
        entry(f"{number}", guarded=True, executable=f"/opt/{number}", package=package)
        for number, package in enumerate(packages)
    )
    entries = tuple(replace(one, part_of_system=part_of_system) for one in entries)
    return evidence(recorded=(start(entries=entries),))


COUNTED = ("errors", "bad_sectors")
RESUME, COLD = StartKind.RESUME, StartKind.COLD


@pytest.mark.parametrize(
    ("rule", "holds", "not_yet"),
    [
        # Twice the memory for the system, a twentieth elsewhere; a twentieth of the files.
        (RuleCode.LITTLE_ROOM, room(15.9 * GB), room(16 * GB)),
        (RuleCode.LITTLE_ROOM, room(4.9 * GB, system=False), room(5 * GB, system=False)),
        (
            RuleCode.LITTLE_ROOM,
            room(19.9 * GB, system=False, size=1000 * GB),
            room(20 * GB, system=False, size=1000 * GB),
        ),
        (RuleCode.LITTLE_ROOM, room(99 * GB, inodes_free=49), room(99 * GB, inodes_free=50)),
        (RuleCode.NOT_RESTARTED, evidence(uptime=14 * 86_400.0), evidence(uptime=13.9 * 86_400)),
        (RuleCode.NOT_RESTARTED, started_on(42, 28, 14), started_on(41, 27.1, 13.2)),
        (RuleCode.NOT_RESTARTED, started_on(42, 28, 14), started_on(28, 14)),
        (RuleCode.FAST_START, started(RESUME, RESUME, COLD, COLD), started(RESUME, COLD)),
        (
            RuleCode.FAST_START,
            started(RESUME, RESUME, StartKind.UNKNOWN, COLD),
            started(RESUME, RESUME, COLD, COLD, COLD),
        ),
        (RuleCode.MEMORY_GROWS, rested(1500.0), rested(1499.0)),
        (RuleCode.MEMORY_GROWS, rested(1500.0), rested(9000.0, age=86_390.0)),
        (RuleCode.BEYOND_STOCK, beyond(40), beyond(39)),
        (RuleCode.BEYOND_STOCK, beyond(60, of=120.0), beyond(60, of=121.0)),
        (RuleCode.FAILING_DRIVE, drive(errors=3), drive(errors=2)),
        (RuleCode.FAILING_DRIVE, drive(bad_sectors=1), drive(bad_sectors=0)),
        (RuleCode.FAILING_DRIVE, drive(worn=0.95), drive(worn=0.94)),
        (RuleCode.DRIVE_PINNED, busy(0.5, **plan(5.0)), busy(0.49, **plan(5.0))),
        (RuleCode.DRIVE_PINNED, busy(0.5, **plan(5.0)), busy(0.5, **plan(4.9))),
        (RuleCode.DRIVE_PINNED, busy(0.5, **plan(2.0, 30.0)), busy(0.5, **plan(1.9, 30.0))),
        (RuleCode.DRIVE_PINNED, busy(0.75), busy(0.74)),
        (
            RuleCode.DRIVE_PINNED,
            busy(0.6, read=149e6 * 6, **plan(5.0)),
            busy(0.6, read=150e6 * 6, **plan(5.0)),
        ),
        (RuleCode.PROCESSOR_PINNED, busy(cpu=0.6, **plan(5.0)), busy(cpu=0.59, **plan(5.0))),
        (RuleCode.MEMORY_FULL, memory(8500.0), memory(8490.0)),
        (RuleCode.MEMORY_FULL, memory(4500.0, 10**9), memory(4500.0, 10**9 - 10**6)),
        (RuleCode.MEMORY_FULL, memory(4000.0, 10**9), memory(3990.0, 10**9)),
        (RuleCode.MEMORY_FULL, memory(5000.0, waits=0.1), memory(5000.0, waits=0.09)),
        (RuleCode.MEMORY_FULL, memory(5000.0, waits=0.9), memory(34.0, waits=0.9)),
        (RuleCode.MEMORY_FULL, memory(killed=1), memory(4500.0, 10**9, compressed=True)),
        (RuleCode.HEAT, throttled(10), throttled(9)),
        (RuleCode.HELD_DOWN, held_down(0.89), held_down(0.9)),
        (RuleCode.HELD_DOWN, held_down(None, profile="quiet"), held_down(None, profile="balanced")),
        (RuleCode.HELD_DOWN, held_down(0.5), held_down(0.5, power=PowerSource.BATTERY)),
        (RuleCode.LOADER_WAITS, loader(4.0, 5.0, 1.0), loader(3.9, 5.0, 1.0)),
        (RuleCode.NEVER_COMES, failing(5.0), failing(4.9)),
        (RuleCode.NEVER_COMES, failing(5.0, cpu=0.5), failing(5.0, cpu=0.51)),
        (RuleCode.NEVER_COMES, failing(5.0), failing(5.0, failed=False)),
        (RuleCode.MANY_FAILED, failing(1.0, 1.0, 1.0), failing(1.0, 1.0)),
        (RuleCode.RESTARTS_ITSELF, failing(1.0, restarts=4), failing(1.0, restarts=3)),
        (RuleCode.UPDATES_AT_SIGN_IN, updated(True, True, False, False), updated(True)),
        (
            RuleCode.UPDATES_AT_SIGN_IN,
            updated(True, True),
            updated(True, True, False, False, False),
        ),
        (RuleCode.SAME_JOB, guards("a 1", "b 1"), guards("a 1", "a 2")),
        (RuleCode.SAME_JOB, guards("a 1", "b 1"), guards("a 1", "b 1", part_of_system=True)),
    ],
)
def test_a_rule_holds_from_its_threshold_on(rule, holds, not_yet):
    def found(seen):
        every = (*upkeep_findings(seen), *hardware_findings(seen), *starting_findings(seen))
        return {finding.rule for finding in every}

    assert rule in found(holds)
    assert rule not in found(not_yet)


def test_what_a_finding_counts_is_what_was_seen():
    (found,) = upkeep_findings(room(12 * GB))
    assert (found.facts["free_bytes"], found.facts["wanted_bytes"]) == (12 * GB, 16 * GB)
    assert (found.facts["files"], found.drawing.share) == (0, pytest.approx(0.05))
    drawings = {name: next(hardware_findings(drive(**{name: 3}))).drawing for name in COUNTED}
    assert drawings == {name: Tally(3) for name in COUNTED}
    assert next(hardware_findings(drive(failing=True))).drawing is None
    answered = {"disk_requests": np.linspace(0.0, 400.0, 11)}
    answered["disk_answer_seconds"] = answered["disk_requests"] * 0.025
    for counted, told in ((answered, 0.025), ({}, None)):
        seen = busy(0.8)
        (one,) = seen.recorded
        vars(one)["samples"] = replace(one.samples, **counted)
        (found,) = hardware_findings(seen)
        assert found.facts.get("answer_seconds") == (told and pytest.approx(told))
    (found,) = upkeep_findings(started_on(60, 40, 20))
    assert (found.facts["days"], found.facts["now"]) == (20.0, 0)
    (found,) = upkeep_findings(evidence(uptime=40 * 86_400.0))
    assert (found.facts["days"], found.facts["now"]) == (40.0, 1)
    full = memory(9000.0)
    two = tuple(MemoryModule(slot, 4 << 30, "DDR4") for slot in ("A", "B"))
    fitted = replace(full.condition, memory_slots=4, modules=two)
    (found,) = hardware_findings(replace(full, condition=fitted))
    assert (found.facts["free_slots"], found.facts["kind"]) == (2, "DDR4")
    (found,) = upkeep_findings(beyond(45, of=90.0))
    assert found.drawing.share == pytest.approx(0.5)
    (found,) = starting_findings(failing(5.0))
    assert found.drawing == Stretch(2.0, 7.0, 7.0)
    (found,) = starting_findings(loader(6.0))
    assert (found.saves.low, found.saves.value, found.saves.high) == (4.0, 5.0, 6.0)
    assert rules.EFFORT_COUNTS[found.effort] == 1.0


def test_of_two_that_are_short_the_one_with_the_least_of_what_it_should_have_is_named():
    def short(mount, free):
        return FileSystem(mount=mount, kind="ext4", size_bytes=int(100 * GB), free_bytes=int(free))

    both = (short("/home", 4 * GB), replace(short("/", 6 * GB), system=True))
    (found,) = upkeep_findings(evidence(Condition(file_systems=both)))
    assert found.facts["where"] == "/"
