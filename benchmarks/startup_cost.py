"""What entries cost: estimated by replay against the stand-in PC's truth, over generated PCs.

The truth is the same PC run again without the entry. The methods were tuned on three families of
PCs; the figures are of the other six. Beside them stands what a plain rating by CPU seconds would
score. Then plans: random sets of entries switched off together, against the truth.
"""

import statistics
import sys
import tempfile
import time
from dataclasses import dataclass
from datetime import UTC, datetime
from multiprocessing import Pool
from pathlib import Path
from random import Random

import numpy as np
from scipy.stats import spearmanr
from tests.made_up_pcs.scenarios import JUDGED_ON, TUNED_ON, Scenario, scenario_pc
from tests.made_up_pcs.truth import true_boot, true_saving, without

from goals import measured, often
from plucky_ledger.capture.sampling.recorder import ADAPTIVE, record
from plucky_ledger.core.boots.analysis import Analysis
from plucky_ledger.core.replay.cost import RoundReplay
from plucky_ledger.core.replay.grades import Grade, GradeThresholds, grade_of
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.exchange.boots import boot_from_bytes
from plucky_ledger.recording.writer import RecordingWriter
from plucky_ledger.standin.boot_run import Setup

PER_FAMILY = often(34, 1)
BOOTS = range(3)
SECONDS = 200.0
PLANS = 3
LEAST_SAVING = 1.0
"""Plans that truly save less are left out of the relative error."""


@dataclass(frozen=True)
class Judged:
    scenario: Scenario
    entry_id: str
    estimated: float
    true: float
    inside: bool
    cpu_seconds: float
    grade: Grade
    true_grade: Grade


@dataclass(frozen=True)
class JudgedPlan:
    scenario: Scenario
    estimated: float
    true: float
    inside: bool


def recorded(pc, seed):
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "boot.jsonl"
        boot = pc.restart(Setup(), seed, datetime.now(UTC))
        with RecordingWriter(path) as writer:
            record(boot, boot, writer, SECONDS, ADAPTIVE)
        found = boot_from_bytes(path.read_bytes())
    return Analysis(found.boot, found.timeline)


def judge(task):
    """Every entry of one PC that may be switched off, and some plans."""
    scenario, seed = task
    pc = scenario_pc(scenario, seed)
    boots = [recorded(pc, number) for number in BOOTS]
    replay = RoundReplay(boots)
    if not replay.boots:
        return [], []
    names = [entry.entry_id for entry in pc.entries if not entry.part_of_system]
    settled = statistics.median(b.boot.readings[Measure.SETTLED].value for b in boots)
    rows = []
    for cost in replay.cost_of(names):
        true = true_saving(pc, without(cost.entry_id), BOOTS).settled
        if cost.settled is None:
            continue
        memory = boots[0].timeline.samples.memory_total_bytes
        truly = max(0.0, true) / statistics.mean(true_boot(pc, n).settled for n in BOOTS)
        truly = max(truly, cost.use.memory_bytes / memory)
        rows.append(
            Judged(
                scenario,
                cost.entry_id,
                cost.settled.value,
                true,
                cost.settled.low <= true <= cost.settled.high,
                cost.use.cpu_seconds,
                grade_of(cost, settled, memory, GradeThresholds()),
                grade_for(truly),
            )
        )
    rng = Random(seed)
    plans = []
    for _ in range(PLANS):
        chosen = frozenset(rng.sample(names, min(len(names), rng.randint(2, 6))))
        plan = replay.plan(chosen)
        true = true_saving(pc, without(*chosen), BOOTS).settled
        inside = plan.saved.low <= true <= plan.saved.high
        plans.append(JudgedPlan(scenario, plan.saved.value, true, inside))
    return rows, plans


def grade_for(share):
    levels = GradeThresholds()
    for grade, least in (
        (Grade.HEAVY, levels.heavy),
        (Grade.MODERATE, levels.moderate),
        (Grade.LIGHT, levels.light),
    ):
        if share >= least:
            return grade
    return Grade.NEGLIGIBLE


def naive(rows):
    """CPU seconds turned into seconds by the one factor that fits this PC family best."""
    cpu, true = np.array([r.cpu_seconds for r in rows]), np.array([r.true for r in rows])
    factor = float(np.median(true[cpu > 0.5] / cpu[cpu > 0.5])) if (cpu > 0.5).any() else 1.0
    return cpu * factor


def report(title, rows):
    estimated, true = np.array([r.estimated for r in rows]), np.array([r.true for r in rows])
    print(
        f"{title:>34} {len(rows):5} | {figures(estimated, true)} | "
        f"{np.mean([r.inside for r in rows]):6.1%} | "
        f"{np.mean([r.grade is r.true_grade for r in rows]):6.1%} | "
        f"{figures(naive(rows), true)}"
    )


def figures(estimated, true):
    error = np.abs(estimated - true)
    good = error <= np.maximum(0.3, 0.2 * np.abs(true))
    return (
        f"{spearmanr(estimated, true)[0]:5.2f} {np.median(error):5.2f} "
        f"{np.quantile(error, 0.9):5.2f} {good.mean():6.1%}"
    )


def pc_rank(rows):
    """Rank correlation within one PC; none where all cost the same."""
    estimated, true = [r.estimated for r in rows], [r.true for r in rows]
    return spearmanr(estimated, true)[0] if np.ptp(true) > 0.2 else np.nan


def report_plans(title, plans):
    big = [p for p in plans if p.true >= LEAST_SAVING]
    relative = [abs(p.estimated - p.true) / p.true for p in big]
    inside = np.mean([p.inside for p in plans])
    if not relative:
        print(f"{title:>34} {len(plans):5} | none saves {LEAST_SAVING:.0f} s")
        return
    print(
        f"{title:>34} {len(plans):5} | median error {np.median(relative):6.1%} of the saving, "
        f"90 % within {np.quantile(relative, 0.9):6.1%} | interval holds "
        f"{inside:6.1%}"
    )


def keep(families, rows, plans):
    """The figures that have a goal, each with its worst family."""
    of = {family: [row for row in rows if row.scenario is family] for family in families}
    ranks = {family: rank_of(mine) for family, mine in of.items()}
    worst = min(ranks, key=ranks.get)
    measured(
        "startup cost: rank correlation with the truth",
        rank_of(rows),
        0.9,
        worst=f"{worst} {ranks[worst]:.2f}",
        least=True,
    )
    errors = {family: median_error(mine) for family, mine in of.items()}
    worst = max(errors, key=errors.get)
    named = f"{worst} {errors[worst]:.2f}"
    measured("startup cost: median error in s", median_error(rows), 0.3, worst=named)
    big = [plan for plan in plans if plan.true >= LEAST_SAVING]
    relative = [abs(plan.estimated - plan.true) / plan.true for plan in big]
    beyond = f"one in ten beyond {np.quantile(relative, 0.9):.0%}"
    measured("plan: error of its saving in the median", np.median(relative), 0.1, "{:.1%}", beyond)
    inside = np.mean([plan.inside for plan in plans])
    measured("plan: its interval holds", inside, 0.9, "{:.1%}", least=True)


def rank_of(rows):
    return spearmanr([row.estimated for row in rows], [row.true for row in rows])[0]


def median_error(rows):
    return np.median([abs(row.estimated - row.true) for row in rows])


def main():
    families = TUNED_ON if "--tuning" in sys.argv else JUDGED_ON
    per_family = int(sys.argv[-1]) if sys.argv[-1].isdigit() else PER_FAMILY
    began = time.perf_counter()
    tasks = [(family, seed) for family in families for seed in range(100, 100 + per_family)]
    with Pool() as pool:
        answers = pool.map(judge, tasks, chunksize=1)
    rows = [row for found, _ in answers for row in found]
    plans = [plan for _, found in answers for plan in found]
    print(
        f"startup cost of entries on {len(tasks)} generated PCs, {len(BOOTS)} boots each "
        f"({time.perf_counter() - began:.0f} s)"
    )
    print(
        f"{'':>34} {'':5} | by replay: rank, median and 90th error in s, within 0.3 s or 20 % | "
        "interval holds | grade right | by CPU·s: the same"
    )
    for family in families:
        report(str(family), [row for row in rows if row.scenario is family])
    report("all", rows)
    within = [pc_rank(found) for found, _ in answers if len(found) > 3]
    print(
        f"rank correlation within a PC's list: median {np.nanmedian(within):.2f}, a quarter of "
        f"the PCs below {np.nanquantile(within, 0.25):.2f}"
    )
    print("plans of two to six entries")
    for family in families:
        report_plans(str(family), [plan for plan in plans if plan.scenario is family])
    report_plans("all", plans)
    keep(families, rows, plans)


if __name__ == "__main__":
    main()
