"""What recording does to a PC's time: to this machine's, and to the stand-in's settled.

On this machine a fixed piece of work is timed with and without the recorder running, in turns, so
that the machine's own drift cancels. The stand-in PC is booted with the same seeds with and without
its recorder, and its own truth is compared; the recorder changes which random numbers the
simulation draws next, so single boots move both ways and only the mean says something.
"""

import statistics
import subprocess
import sys
import tempfile
import time
from datetime import UTC, datetime
from pathlib import Path

from plucky_ledger.capture.sampling.recorder import record
from plucky_ledger.recording.writer import RecordingWriter
from plucky_ledger.standin.boot_run import Setup
from plucky_ledger.standin.museum import TICKET_DESK

TURNS, WORK_STEPS, SEEDS = 8, 12_000_000, 12


def work_seconds() -> float:
    begin = time.perf_counter()
    sum(range(WORK_STEPS * 3))
    return time.perf_counter() - begin


def with_recorder(folder: Path, turn: int) -> float:
    recorder = subprocess.Popen(
        [
            sys.executable,
            "-m",
            "plucky_ledger",
            "record",
            "--for",
            "60",
            "--out",
            str(folder / f"{turn}.jsonl.gz"),
        ],
        stdout=subprocess.DEVNULL,
    )
    try:
        time.sleep(1.0)
        return work_seconds()
    finally:
        recorder.terminate()
        recorder.wait()


def stand_in_truth(seed: int, folder: Path | None) -> float:
    boot = TICKET_DESK.restart(Setup(), seed, datetime.now(UTC))
    if folder is not None:
        with RecordingWriter(folder / f"standin-{seed}.jsonl.gz") as writer:
            record(boot, boot, writer, 120.0)
    else:
        boot.run.machine.run_until(130.0)
    return boot.run.machine.last_startup_work


def main() -> None:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        without, recorded = [], []
        for turn in range(TURNS):
            without.append(work_seconds())
            recorded.append(with_recorder(folder, turn))
        ratio = statistics.median(recorded) / statistics.median(without)
        spread = statistics.stdev(without) / statistics.median(without)
        print(
            f"this machine: the same work takes {ratio - 1:+.1%} while recording "
            f"(it differs by {spread:.1%} from go to go)"
        )
        shifts = [stand_in_truth(s, folder) - stand_in_truth(s, None) for s in range(SEEDS)]
        print(
            f"stand-in PC: settles {statistics.mean(shifts):+.2f} s while recorded "
            f"(from {min(shifts):+.2f} to {max(shifts):+.2f} over {SEEDS} boots)"
        )


if __name__ == "__main__":
    main()
