"""What a faster processor wins on a real PC, beside what is promised from boots on the slower one.

    python benchmarks/real_faster_processor.py [ROUNDS] [FOLDER]

The real PC at 0.3, 0.6 and 1.2 cores is one processor at three speeds, each twice the one before.
Boots are taken in turns. From the boots of each speed stands what twice the speed is expected to
win, beside what it won. With a FOLDER the recordings are kept there, or read where there are some.
"""

import sys
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from datetime import UTC, datetime
from itertools import pairwise
from pathlib import Path
from statistics import median
from tempfile import TemporaryDirectory

from tests.real_pc.disk import NotHere
from tests.real_pc.install import bench_pc
from tests.real_pc.pc import RealPc
from tests.real_pc.use import RECORDINGS, ledger_command, wait_until_known

from plucky_ledger.core.boots.analysis import Analysis
from plucky_ledger.core.replay.cost import RoundReplay
from plucky_ledger.core.replay.other_hardware import MORE_BY_CORES, on_quicker_processor
from plucky_ledger.core.values.estimates import Estimate
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.exchange.boots import boot_from_bytes

ROUNDS = int(sys.argv[1]) if len(sys.argv) > 1 else 3
SPEEDS = (0.3, 0.6, 1.2)
"""Cores."""
REST_SECONDS = 45.0
MEASURES = (Measure.SETTLED, Measure.SYSTEM_UP)


def main() -> None:
    try:
        with _folder() as folder:
            if not any(folder.iterdir()):
                record_all(folder)
            report(folder)
    except NotHere as reason:
        print(f"no real PC here: {reason}")


@contextmanager
def _folder() -> Iterator[Path]:
    if len(sys.argv) > 2:
        folder = Path(sys.argv[2])
        folder.mkdir(parents=True, exist_ok=True)
        yield folder
    else:
        with TemporaryDirectory() as name:
            yield Path(name)


def record_all(folder: Path) -> None:
    with bench_pc("Processor PC") as (pc, job):
        for turn in range(ROUNDS):
            for cores in SPEEDS if turn % 2 == 0 else SPEEDS[::-1]:
                (folder / f"{cores}-{turn}.jsonl.gz").write_bytes(boot(pc, job, cores))
                print(".", end="", flush=True)


def boot(pc: RealPc, job: str, cores: float) -> bytes:
    ledger_command(pc, "arm", job, "--system", "--boots", "1", "--look-on", "0")
    pc.switch_off()
    pc.switch_on(cores)
    pc.wait_until_up()
    wait_until_known(pc)
    pc.run("sleep", str(REST_SECONDS))
    pc.run("systemctl", "stop", "plucky-ledger-recorder.service")
    (path,) = pc.path(RECORDINGS).glob("*/*.gz")
    data = path.read_bytes()
    path.unlink()
    return data


def report(folder: Path) -> None:
    analyses = {cores: analysed(folder, cores) for cores in SPEEDS}
    print()
    for cores, boots in analyses.items():
        for measure in MEASURES:
            each = ", ".join(f"{one.readings[measure].value:.1f}" for one in boots)
            print(f"{cores} cores, {measure}: {each}")
    held = asked = 0
    for slow, quick in pairwise(SPEEDS):
        plans = [
            RoundReplay(boots).on_other_hardware(on_quicker_processor, MORE_BY_CORES)
            for boots in (*([one] for one in analyses[slow]), analyses[slow])
        ]
        for measure in MEASURES:
            won = typical(analyses[slow], measure) - typical(analyses[quick], measure)
            promised = [
                plan.saved if measure is Measure.SETTLED else plan.up_saved
                for plan in plans
                if plan is not None
            ]
            told = [each for each in promised if each is not None]
            held += sum(each.low <= won <= each.high for each in told[:-1])
            asked += len(told[:-1])
            print(f"{slow} → {quick} {measure}: won {won:.1f}, expected {in_words(told)}")
    print(f"{held} of {asked} boots' intervals hold what was won")


def analysed(folder: Path, cores: float) -> list[Analysis]:
    recorded = [boot_from_bytes(path.read_bytes()) for path in folder.glob(f"{cores}-*.gz")]
    return [Analysis(one.boot, one.timeline) for one in recorded]


def typical(boots: Sequence[Analysis], measure: Measure) -> float:
    return median(one.readings[measure].value for one in boots)


def in_words(found: Sequence[Estimate]) -> str:
    return "; ".join(f"{one.value:.1f} ({one.low:.1f} to {one.high:.1f})" for one in found)


if __name__ == "__main__":
    print(datetime.now(UTC).isoformat(timespec="seconds"))
    sys.exit(main())
