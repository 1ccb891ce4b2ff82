"""Advice: every rule against every stand-in PC with a fault, and what other hardware would win.

First a table of rules by PCs: each fault is found by its own rule, and by no other. Then the
seconds promised for a drive ten times as fast, for cores twice as fast, and for four times the
memory on PCs that are short of it, against the truth: the same PC with that hardware.
"""

import statistics
import tempfile
from dataclasses import dataclass, replace
from multiprocessing import Pool
from pathlib import Path
from random import Random

import numpy as np
from benchmarks.startup_cost import recorded
from tests.helpers.faulty import found_on
from tests.made_up_pcs.faults import Fault, pc_with
from tests.made_up_pcs.scenarios import Scenario, scenario_pc
from tests.made_up_pcs.truth import true_boot

from goals import measured, often
from plucky_ledger.core.advice.evidence import spared_by_memory
from plucky_ledger.core.replay.cost import RoundReplay
from plucky_ledger.core.replay.other_hardware import (
    QUICKER_DRIVE,
    QUICKER_PROCESSOR,
    on_quicker_drive,
    on_quicker_processor,
    with_more_memory,
)
from plucky_ledger.recording.condition import ConditionLine
from plucky_ledger.standin.program import Hold, Spawn
from plucky_ledger.store.ledger import Ledger

PER_FAMILY = often(14, 1)
BOOTS = range(3)
LEAST_SAVING = 1.0


@dataclass(frozen=True)
class Judged:
    part: str
    promised: float
    true: float
    inside: bool


def found(fault):
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder)
        with Ledger(path / "bench.ledger") as ledger:
            restarted = fault is not Fault.UP_FOR_WEEKS
            return found_on(ledger, pc_with(fault), path, restarted=restarted).findings


def with_quicker_drive(hardware):
    return replace(
        hardware,
        disk_megabytes_per_second=hardware.disk_megabytes_per_second * QUICKER_DRIVE,
        seek_seconds=hardware.seek_seconds / QUICKER_DRIVE,
        rotating=False,
    )


def with_cores(hardware):
    return replace(hardware, core_speed=hardware.core_speed * QUICKER_PROCESSOR)


def with_memory(hardware):
    return replace(hardware, memory_megabytes=hardware.memory_megabytes * 4)


PARTS = {
    "a drive ten times as fast": with_quicker_drive,
    "cores twice as fast": with_cores,
    "four times the memory": with_memory,
}


def judge(task):
    scenario, seed = task
    pc = scenario_pc(scenario, seed)
    parts = {"cores twice as fast": lambda _boots: on_quicker_processor}
    if pc.hardware.rotating:
        parts["a drive ten times as fast"] = lambda _boots: on_quicker_drive
    short = {"four times the memory": kept_in_memory}
    return judged(pc, parts) + judged(short_of_memory(pc, seed), short)


def kept_in_memory(boots):
    return with_more_memory(spared_by_memory(boots))


def short_of_memory(pc, seed):
    """The same PC with less memory than all its programs want to hold."""
    wanted = sum(held_by(entry.program) for entry in pc.entries if entry.program is not None)
    memory = max(256.0, wanted * Random(seed).uniform(0.75, 1.1))
    return replace(
        pc,
        hardware=replace(pc.hardware, memory_megabytes=memory),
        condition=ConditionLine(maker="made up"),
    )


def held_by(program):
    own = sum(action.megabytes for action in program.actions if isinstance(action, Hold))
    return own + sum(held_by(a.program) for a in program.actions if isinstance(a, Spawn))


def judged(pc, parts):
    boots = [recorded(pc, number) for number in BOOTS]
    replay = RoundReplay(boots)
    rows = []
    for part, changed in parts.items():
        fitted = PARTS[part]
        plan = replay.on_other_hardware(changed(boots))
        if plan is None or plan.saved is None:
            continue
        other = replace(pc, hardware=fitted(pc.hardware))
        true = float(
            np.mean(
                [
                    true_boot(pc, number).settled - true_boot(other, number).settled
                    for number in BOOTS
                ]
            )
        )
        rows.append(Judged(part, plan.saved.value, true, plan.saved.low <= true <= plan.saved.high))
    return rows


def main() -> None:
    with Pool() as pool:
        print("rules found on each stand-in PC, costliest first:")
        for fault, findings in zip(Fault, pool.map(found, Fault), strict=True):
            told = ", ".join(
                f.rule + (f" ({f.saves.value:.1f} s)" if f.saves else "") for f in findings
            )
            print(f"  {fault:40} {told or '-'}")
        tasks = [(scenario, seed) for scenario in Scenario for seed in range(PER_FAMILY)]
        rows = [row for each in pool.map(judge, tasks) for row in each]
    for part in PARTS:
        mine = [row for row in rows if row.part == part]
        errors = [abs(r.promised - r.true) / r.true for r in mine if r.true >= LEAST_SAVING]
        inside = statistics.mean(row.inside for row in mine)
        print(f"{part}: {len(mine)} PCs, {len(errors)} that save {LEAST_SAVING:.0f} s or more")
        ninth = f"one in ten beyond {np.quantile(errors, 0.9):.0%}"
        error = statistics.median(errors)
        measured(f"{part}: error of its promise in the median", error, 0.2, "{:.1%}", ninth)
        measured(f"{part}: its interval holds", inside, 0.9, "{:.1%}", least=True)


if __name__ == "__main__":
    main()
