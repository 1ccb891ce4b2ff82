"""Rules about what a PC is built of: drive, cores, memory, heat."""

from collections.abc import Iterator
from statistics import median

from plucky_ledger.core.advice import rules
from plucky_ledger.core.advice.evidence import (
    Busy,
    Evidence,
    course,
    held_at_last,
    held_by_program,
    typical_busy,
    waits_in_startup,
)
from plucky_ledger.core.advice.finding import Finding, Gauge, Sureness, Tally
from plucky_ledger.core.advice.rules import RULES
from plucky_ledger.core.boots.boot import PowerSource
from plucky_ledger.core.entries.decisions import Decision
from plucky_ledger.core.job.advised import RuleCode
from plucky_ledger.core.job.changes import Change, ChangeKind
from plucky_ledger.core.pc.condition import Condition
from plucky_ledger.core.pc.facts import DriveKind
from plucky_ledger.core.replay.grades import Grade, GradeThresholds, grade_of
from plucky_ledger.core.replay.startup_cost import PlanEstimate
from plucky_ledger.core.values.reasons import Fact

NAMED = 3
"""Programs that are named in one sentence."""
SAVING_PROFILES = frozenset({"power-saver", "low-power", "quiet"})
"""What the kernel and the desktops call profiles that hold the processor down."""


def hardware_findings(evidence: Evidence) -> Iterator[Finding]:
    """What comes of the hardware, in no order."""
    yield from _failing_drives(evidence)
    busy = typical_busy(evidence.recorded)
    if busy is not None:
        yield from _drive_pinned(evidence, busy)
        yield from _processor_pinned(evidence, busy)
    yield from _memory_full(evidence)
    yield from _heat(evidence)
    yield from _held_down(evidence)


def _failing_drives(evidence: Evidence) -> Iterator[Finding]:
    for drive in evidence.condition.drives:
        errors, bad, worn = drive.errors or 0, drive.bad_sectors or 0, drive.worn or 0.0
        worn_out = worn >= rules.WORN_OUT
        if not (
            errors >= rules.DRIVE_ERRORS or drive.failing or bad >= rules.BAD_SECTORS or worn_out
        ):
            continue
        yield Finding(
            rule=RuleCode.FAILING_DRIVE,
            sureness=Sureness.SEEN if drive.failing else Sureness.LIKELY,
            effort=RULES[RuleCode.FAILING_DRIVE].effort,
            facts={
                "drive": drive.name,
                "model": drive.model,
                "errors": errors,
                "failing": int(bool(drive.failing)),
                "bad_sectors": bad,
                **({"worn": worn} if worn_out else {}),
            },
            drawing=Gauge("drive", min(worn, 1.0), rules.WORN_OUT)
            if worn_out
            else Tally(errors or bad)
            if errors or bad
            else None,
            changes=(Change(kind=ChangeKind.SOLID_STATE_DRIVE, what="", before=drive.name),),
            about=drive.name,
        )


def _drive_pinned(evidence: Evidence, busy: Busy) -> Iterator[Finding]:
    known_quick = busy.bytes_per_busy_second >= rules.QUICK_BYTES_PER_SECOND
    newest, plan = evidence.newest, evidence.quicker_drive
    if busy.disk < rules.BUSY_DRIVE or known_quick or newest is None:
        return
    if not _worth(evidence, plan, busy.disk):
        return
    drives = evidence.facts.drives
    if drives and all(drive.virtual for drive in drives):
        return
    kinds = {drive.kind for drive in drives}
    rotating = DriveKind.ROTATING in kinds
    waits = waits_in_startup(evidence.recorded)
    answers = waits.answer_seconds if waits is not None else None
    yield Finding(
        rule=RuleCode.DRIVE_PINNED,
        sureness=Sureness.SEEN if rotating else Sureness.LIKELY,
        effort=RULES[RuleCode.DRIVE_PINNED].effort,
        facts={
            "share": busy.disk,
            "rotating": int(rotating),
            "bytes_per_second": busy.bytes_per_busy_second,
            "seconds": evidence.settled_seconds,
            "settles": int(newest.settled_at is not None),
            **({"answer_seconds": answers} if answers is not None else {}),
        },
        saves=plan.saved if plan is not None else None,
        settled=plan.settled if plan is not None else None,
        drawing=course(newest, "disk"),
        changes=(Change(kind=ChangeKind.SOLID_STATE_DRIVE, what=""),),
    )


def _processor_pinned(evidence: Evidence, busy: Busy) -> Iterator[Finding]:
    newest, plan = evidence.newest, evidence.quicker_processor
    if busy.cpu < rules.BUSY_CORES or newest is None:
        return
    if not _worth(evidence, plan, busy.cpu):
        return
    others = len(could_be_switched_off(evidence))
    yield Finding(
        rule=RuleCode.PROCESSOR_PINNED,
        sureness=Sureness.LIKELY if others else Sureness.SEEN,
        effort=RULES[RuleCode.PROCESSOR_PINNED].effort,
        facts={"share": busy.cpu, "cores": evidence.facts.cores or 0, "others": others},
        saves=plan.saved if plan is not None else None,
        settled=plan.settled if plan is not None else None,
        drawing=course(newest, "cpu"),
    )


def _worth(evidence: Evidence, plan: PlanEstimate | None, busy: float) -> bool:
    """Whether the least that it would win is worth a part; where no replay tells, as for a PC that
    never settles, whether it is ``busy`` nearly all of the time.
    """
    if plan is None or plan.saved is None:
        return busy >= rules.NEARLY_ALL
    least = max(rules.LEAST_SECONDS, rules.LEAST_SHARE * evidence.settled_seconds)
    return plan.saved.low >= least


def could_be_switched_off(evidence: Evidence) -> tuple[str, ...]:
    """Entries that cost something and that nobody has said are needed."""
    memory = float(evidence.facts.memory_bytes or 0)
    weighing = {Grade.HEAVY, Grade.MODERATE}
    return tuple(
        entry_id
        for entry_id, entry in evidence.entries.items()
        if (cost := evidence.costs.get(entry_id)) is not None
        and not entry.part_of_system
        and not entry.guarded
        and entry.off_because is None
        and not _kept(evidence, entry_id)
        and grade_of(cost, evidence.settled_seconds, memory, GradeThresholds()) in weighing
    )


def _kept(evidence: Evidence, entry_id: str) -> bool:
    decided = evidence.decided.get(entry_id)
    return decided is not None and decided.decision is Decision.KEEP


def _memory_full(evidence: Evidence) -> Iterator[Finding]:
    total = evidence.facts.memory_bytes
    held = [amount for one in evidence.recorded if (amount := held_at_last(one)) is not None]
    condition = evidence.condition
    swapped = 0 if condition.swap_compressed else condition.swap_used_bytes or 0
    if not total or not held:
        return
    share = median(held) / total
    killed = condition.killed_for_memory or 0
    plan = evidence.more_memory
    thrashing = _worth(evidence, plan, 0.0)
    swapping = swapped >= rules.SWAPPED_SHARE * total
    waits = waits_in_startup(evidence.recorded)
    waiting = (waits.for_memory if waits is not None else None) or 0.0
    thrashing = thrashing or waiting >= rules.WAITS_FOR_MEMORY
    # What is felt has to have something to come from: a group's own limit is felt as well.
    felt = (swapping or thrashing) and share + swapped / total >= rules.MUCH_MEMORY
    if not (share >= rules.FULL_MEMORY or killed or felt):
        return
    yield Finding(
        rule=RuleCode.MEMORY_FULL,
        sureness=Sureness.SEEN,
        effort=RULES[RuleCode.MEMORY_FULL].effort,
        facts={
            "share": share,
            "held_bytes": median(held),
            "total_bytes": total,
            "swapped_bytes": swapped,
            "killed": killed,
            "waiting": waiting,
            "holders": _holders(evidence),
            **_fitted(condition),
        },
        saves=plan.saved if plan is not None else None,
        settled=plan.settled if plan is not None else None,
        drawing=Gauge("memory", min(share, 1.0), rules.FULL_MEMORY),
        changes=(Change(kind=ChangeKind.MEMORY, what=""),),
    )


def _holders(evidence: Evidence) -> str:
    """Names of the programs that hold most."""
    held = held_by_program(evidence.newest) if evidence.newest is not None else {}
    return ", ".join(sorted(held, key=lambda name: (-held[name], name))[:NAMED])


def _fitted(condition: Condition) -> dict[str, Fact]:
    """What memory is fitted, and how much more can be."""
    facts: dict[str, Fact] = {}
    if condition.memory_slots is not None:
        facts["free_slots"] = max(0, condition.memory_slots - len(condition.modules))
    if condition.modules:
        facts["kind"] = condition.modules[0].kind
    if condition.most_memory_bytes:
        facts["most_bytes"] = condition.most_memory_bytes
    return facts


def _heat(evidence: Evidence) -> Iterator[Finding]:
    times = evidence.condition.throttled or 0
    if times >= rules.THROTTLES:
        yield Finding(
            rule=RuleCode.HEAT,
            sureness=Sureness.SEEN,
            effort=RULES[RuleCode.HEAT].effort,
            facts={"times": times},
            drawing=Tally(times),
            changes=(Change(kind=ChangeKind.OTHER, what=""),),
        )


def _held_down(evidence: Evidence) -> Iterator[Finding]:
    condition, newest = evidence.condition, evidence.newest
    limit = condition.frequency_limit
    limited = limit is not None and limit < rules.LIMITED_FREQUENCY
    on_battery = newest is not None and newest.boot.context.power_source is PowerSource.BATTERY
    if on_battery or not (limited or condition.power_profile in SAVING_PROFILES):
        return  # on battery it is meant to
    facts: dict[str, Fact] = {"profile": condition.power_profile}
    if limit is not None:
        facts["share"] = limit
    yield Finding(
        rule=RuleCode.HELD_DOWN,
        sureness=Sureness.SEEN,
        effort=RULES[RuleCode.HELD_DOWN].effort,
        facts=facts,
        drawing=Gauge("cpu", limit, 1.0, less=True) if limit is not None else None,
        changes=(
            Change(kind=ChangeKind.POWER_OR_EFFECTS, what="", before=condition.power_profile),
        ),
    )
