"""Rules about how a PC is kept: room, restarts, memory that fills up over days."""

from collections.abc import Iterator
from dataclasses import replace
from datetime import datetime
from itertools import pairwise
from statistics import median

from plucky_ledger.core.advice import rules
from plucky_ledger.core.advice.evidence import Evidence, held_by_program
from plucky_ledger.core.advice.finding import Finding, Gauge, Sureness, Tally
from plucky_ledger.core.advice.rules import DAY_SECONDS, RULES
from plucky_ledger.core.boots.analysis import Analysis
from plucky_ledger.core.boots.boot import How, StartKind
from plucky_ledger.core.job.advised import RuleCode
from plucky_ledger.core.job.changes import Change, ChangeKind
from plucky_ledger.core.pc.condition import FileSystem
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.values.measures import Measure

SAME_START_SECONDS = 120.0
"""The log and the recorder tell the same start a little apart."""


def upkeep_findings(evidence: Evidence) -> Iterator[Finding]:
    """What is left undone, in no order."""
    yield from _little_room(evidence)
    yield from _not_restarted(evidence)
    yield from _fast_start(evidence)
    yield from _memory_grows(evidence)
    yield from _beyond_stock(evidence)
    yield from _check_due(evidence)


def _little_room(evidence: Evidence) -> Iterator[Finding]:
    """The file system that has least of what it should have free, if any has too little."""
    memory = float(evidence.facts.memory_bytes or 0)
    file_systems = evidence.condition.file_systems or _as_file_systems(evidence.facts)
    short = [
        (one, wanted_bytes)
        for one in file_systems
        if _short_of(one, wanted_bytes := _wanted(one, memory))
    ]
    if not short:
        return
    worst, wanted_bytes = min(short, key=lambda pair: pair[0].free_bytes / max(pair[1], 1.0))
    share = wanted_bytes / worst.size_bytes if worst.size_bytes else 0.0
    yield Finding(
        rule=RuleCode.LITTLE_ROOM,
        sureness=Sureness.SEEN,
        effort=RULES[RuleCode.LITTLE_ROOM].effort,
        facts={
            "where": worst.mount,
            "free_bytes": worst.free_bytes,
            "wanted_bytes": wanted_bytes,
            "files": int(worst.free_bytes >= wanted_bytes),
        },
        drawing=Gauge("disk", 1 - worst.full, min(share, 1.0), less=True),
        changes=(Change(kind=ChangeKind.DISK_SPACE, what=""),),
    )


def _as_file_systems(facts: Facts) -> tuple[FileSystem, ...]:
    """Drives whose room is known, where nobody told of file systems: the one with least counts."""
    measured = [drive for drive in facts.drives if drive.free_bytes is not None]
    each = [
        FileSystem(mount=d.name, kind="", size_bytes=d.size_bytes, free_bytes=d.free_bytes or 0)
        for d in measured
    ]
    return (replace(min(each, key=lambda one: one.free_bytes), system=True),) if each else ()


def _wanted(one: FileSystem, memory: float) -> float:
    """Bytes that should be free on a file system."""
    wanted_bytes = min(rules.LEAST_FREE * one.size_bytes, rules.MOST_WANTED_BYTES)
    return max(wanted_bytes, rules.ROOM_PER_MEMORY * memory) if one.system else wanted_bytes


def _short_of(one: FileSystem, wanted: float) -> bool:
    out_of_files = one.inodes > 0 and one.inodes_free < rules.LEAST_FREE * one.inodes
    return one.free_bytes < wanted or out_of_files


def _not_restarted(evidence: Evidence) -> Iterator[Finding]:
    uptime = evidence.facts.uptime_seconds or 0.0
    restarted = any(boot.started_at > evidence.taken_in_at for boot in evidence.starts)
    before = _starts_before(evidence)
    gaps = [(later - sooner).total_seconds() for sooner, later in pairwise(before)]
    up_long = not restarted and uptime >= rules.LONG_UP_DAYS * DAY_SECONDS
    seldom = len(gaps) >= rules.FEW_STARTS and median(gaps) >= rules.LONG_UP_DAYS * DAY_SECONDS
    if not (up_long or seldom):
        return
    days = uptime / DAY_SECONDS if up_long else median(gaps) / DAY_SECONDS
    yield Finding(
        rule=RuleCode.NOT_RESTARTED,
        sureness=Sureness.SEEN,
        effort=RULES[RuleCode.NOT_RESTARTED].effort,
        facts={
            "days": round(days, 1),
            "now": int(up_long),
            "wakes": sum(1 for wake in evidence.power_log.wakes if wake < evidence.taken_in_at),
        },
        drawing=Tally(round(days)),
    )


def _starts_before(evidence: Evidence) -> list[datetime]:
    """Starts before it was taken in, oldest first, by its boots and its log: each start once."""
    instants = sorted((*(boot.started_at for boot in evidence.starts), *evidence.power_log.starts))
    starts: list[datetime] = []
    for start in instants:
        again = starts and (start - starts[-1]).total_seconds() < SAME_START_SECONDS
        if start < evidence.taken_in_at and not again:
            starts.append(start)
    return starts


def _fast_start(evidence: Evidence) -> Iterator[Finding]:
    # What the log calls so is a boot in which the PC slept at some time, however it was started.
    recorded = [boot for boot in evidence.starts if boot.how is not How.JOURNAL]
    kinds = [boot.context.start_kind for boot in recorded]
    started = [kind for kind in kinds if kind is not StartKind.UNKNOWN]
    resumed = started.count(StartKind.RESUME)
    if resumed < rules.FEW_STARTS or resumed < rules.RESUMED_SHARE * len(started):
        return
    yield Finding(
        rule=RuleCode.FAST_START,
        sureness=Sureness.SEEN,
        effort=RULES[RuleCode.FAST_START].effort,
        facts={"resumed": resumed, "starts": len(started)},
        drawing=Tally(resumed, len(started)),
        changes=(Change(kind=ChangeKind.FAST_START, what=""),),
    )


def _memory_grows(evidence: Evidence) -> Iterator[Finding]:
    """A reading at rest days after the start against the PC just settled."""
    old = [one for one in evidence.at_rest if _age(one) >= DAY_SECONDS]
    fresh = [held for one in evidence.recorded if (held := _held(one)) is not None]
    held = _held(old[-1]) if old else None
    if held is None or not fresh or held < rules.GROWN * median(fresh):
        return
    name, grown = _grown_most(old[-1], evidence.recorded[-1])
    yield Finding(
        rule=RuleCode.MEMORY_GROWS,
        sureness=Sureness.LIKELY,
        effort=RULES[RuleCode.MEMORY_GROWS].effort,
        facts={
            "days": round(_age(old[-1]) / DAY_SECONDS, 1),
            "held_bytes": held * 1e6,
            "fresh_bytes": median(fresh) * 1e6,
            "program": name,
            "grown_bytes": grown,
        },
    )


def _age(analysis: Analysis) -> float:
    """Seconds from the PC's start to the recording."""
    return float(analysis.samples.seconds[0]) if analysis.samples is not None else 0.0


def _held(analysis: Analysis) -> float | None:
    """Megabytes held at rest."""
    reading = analysis.readings.get(Measure.MEMORY_HELD)
    return reading.value if reading is not None else None


def _grown_most(old: Analysis, fresh: Analysis) -> tuple[str, float]:
    """The program that holds most more than it did, and by how many bytes."""
    before, now = held_by_program(fresh), held_by_program(old)
    grown = {name: held - before.get(name, 0.0) for name, held in now.items()}
    name = max(grown, key=lambda one: grown[one], default="")
    return (name, grown[name]) if name and grown[name] > 0 else ("", 0.0)


def _beyond_stock(evidence: Evidence) -> Iterator[Finding]:
    beyond, newest = evidence.beyond_stock, evidence.newest
    if beyond is None or newest is None or beyond.processes < rules.BEYOND_STOCK_PROCESSES:
        return
    reading = newest.readings.get(Measure.PROCESSES)
    if reading is None or beyond.processes < rules.BEYOND_STOCK_SHARE * reading.value:
        return
    yield Finding(
        rule=RuleCode.BEYOND_STOCK,
        sureness=Sureness.SEEN,
        effort=RULES[RuleCode.BEYOND_STOCK].effort,
        facts={
            "processes": beyond.processes,
            "entries": len(beyond.entries),
            "memory_bytes": beyond.memory_bytes,
        },
        drawing=Gauge(
            "processes", min(beyond.processes / reading.value, 1.0), rules.BEYOND_STOCK_SHARE
        ),
    )


def _check_due(evidence: Evidence) -> Iterator[Finding]:
    """A file system in which the kernel found errors, or whose own count says it is time."""
    for one in evidence.condition.file_systems:
        if not (one.errors or one.check_due):
            continue
        yield Finding(
            rule=RuleCode.CHECK_DUE,
            sureness=Sureness.SEEN if one.errors else Sureness.LIKELY,
            effort=RULES[RuleCode.CHECK_DUE].effort,
            facts={"where": one.mount, "errors": one.errors or 0},
            drawing=Tally(one.errors) if one.errors else None,
            changes=(Change(kind=ChangeKind.OTHER, what=""),),
            about=one.mount,
        )
