"""What one toggle of the plan takes with 200 startup entries and five boots.

The entries are those of a generated PC, many times over.
"""

import statistics
import time
from dataclasses import replace

from tests.made_up_pcs.scenarios import Scenario, scenario_pc

from goals import cpu_seconds, measured
from plucky_ledger.core.replay.cost import RoundReplay
from plucky_ledger.standin.pc import StandinPc
from plucky_ledger.standin.program import Compute, Read
from startup_cost import recorded

ENTRIES = 200


def crowded():
    """A PC with 200 entries, each a fraction of one."""
    pc = scenario_pc(Scenario.MANY_CORES, 1)
    models = [entry for entry in pc.entries if entry.at_sign_in and not entry.part_of_system]
    more = []
    for number in range(ENTRIES - len(pc.entries)):
        model = models[number % len(models)]
        name = f"more-{number:03d}"
        actions = tuple(
            replace(action, cpu_seconds=action.cpu_seconds / 8)
            if isinstance(action, Compute)
            else replace(action, file=name, megabytes=action.megabytes / 8)
            if isinstance(action, Read)
            else action
            for action in model.program.actions
        )
        program = replace(model.program, name=name, command=f"/opt/{name}/run", actions=actions)
        more.append(replace(model, entry_id=name, program=program, after=()))
    return StandinPc(
        hardware=pc.hardware,
        entries=(*pc.entries, *more),
        os_release=pc.os_release,
        cpu_model=pc.cpu_model,
        kernel=pc.kernel,
    )


def main():
    boots = [recorded(crowded(), seed) for seed in range(5)]
    began = time.perf_counter()
    replay = RoundReplay(boots)
    built = time.perf_counter() - began
    names = sorted(replay.entry_ids)
    replay.plan(frozenset())
    took = []
    off = set()
    for name in names[:30]:
        off.add(name)
        took.append(cpu_seconds(replay.plan, frozenset(off)))
    print(f"{len(names)} entries, {replay.boots} boots: making ready {built:.2f} s")
    measured(
        "CPU·ms for a toggle of a plan of 200 entries, 5 boots",
        statistics.median(took) * 1e3,
        50,
        "{:.0f}",
        f"{max(took) * 1e3:.0f}",
    )


if __name__ == "__main__":
    main()
