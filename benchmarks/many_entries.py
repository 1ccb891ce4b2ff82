"""How the costs of a job grow with its entries: three boots of PCs with 25 to 200 made-up ones."""

import tempfile
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path
from random import Random

from goals import QUICK, cpu_seconds, measured
from plucky_ledger.capture.sampling.recorder import record
from plucky_ledger.core.boots.analysis import Analysis
from plucky_ledger.core.replay.cost import RoundReplay
from plucky_ledger.exchange.boots import boot_from_bytes
from plucky_ledger.recording.writer import RecordingWriter
from plucky_ledger.standin.boot_run import Setup
from plucky_ledger.standin.museum import TICKET_DESK, _service, _sign_in
from plucky_ledger.standin.program import Compute, Hold, Read, Up

COUNTS = (100, 200) if QUICK else (25, 50, 100, 200)
BOOTS = range(3)
TURNS = 3
SECONDS = 220.0


def crowded(count: int):
    """The stand-in PC with so many entries more, half of them services."""
    chance, more = Random(count), []
    for number in range(count):
        work = (
            Compute(chance.uniform(0.02, 0.25)),
            Read(f"data{number}", chance.uniform(0.5, 6)),
            Hold(chance.uniform(2, 15)),
        )
        name, title = f"made-up-{number}", f"Made up {number}"
        if number % 2:
            more.append(
                _service(
                    f"{name}.service",
                    title,
                    *work,
                    Up(),
                    after=("message-bus.service",),
                    system=False,
                )
            )
        else:
            after = chance.uniform(0.2, 6)
            stays = number % 4 == 0
            more.append(_sign_in(name, title, f"/opt/{name}", after, *work, stays=stays))
    return replace(TICKET_DESK, entries=(*TICKET_DESK.entries, *more))


def recorded(count: int) -> list[Analysis]:
    found = []
    for seed in BOOTS:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "boot.jsonl"
            boot = crowded(count).restart(Setup(), seed, datetime(2026, 11, 2, 9, tzinfo=UTC))
            with RecordingWriter(path) as writer:
                record(boot, boot, writer, SECONDS)
            told = boot_from_bytes(path.read_bytes())
        found.append(Analysis(told.boot, told.timeline))
        assert found[-1].attribution is not None
    return found


def all_costs(boots: list[Analysis]) -> None:
    replay = RoundReplay(boots)
    replay.cost_of(sorted(replay.entry_ids))


def main() -> None:
    boots = {count: recorded(count) for count in COUNTS}
    # In turns, and the least of each: a machine that others use is slower for seconds at a time.
    turns = [
        {count: cpu_seconds(all_costs, boots[count]) for count in COUNTS} for _ in range(TURNS)
    ]
    took = {count: min(turn[count] for turn in turns) for count in COUNTS}
    for count, seconds in took.items():
        print(f"all costs of {count} entries more, {len(BOOTS)} boots: {seconds:.2f} CPU·s")
    measured("CPU·s for all costs of 200 entries × 3 boots", took[200], 1.2)
    measured("growth of that from 100 to 200 entries", took[200] / took[100], 2.2, "{:.1f}")


if __name__ == "__main__":
    main()
