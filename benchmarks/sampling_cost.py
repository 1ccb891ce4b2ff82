"""What one sampling pass costs, against a C loop and against psutil's process_iter.

All three read the real /proc of this machine in turns, with enough idle processes started to make
450. Printed are CPU seconds a pass and their ratios; then the recorder as a program: its own share
of a core at one sample a second, and how soon after its start the first sample is there.
"""

import json
import os
import shutil
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import psutil

from plucky_ledger.capture.sampling.this_pc import ThisPc

PROCESSES = 450
PASSES = 20
ROUNDS = 7
FIELDS = ["pid", "ppid", "name", "cpu_times", "memory_info", "create_time"]


def cpu_of(work, passes: int = PASSES) -> float:
    begin = time.process_time()
    for _ in range(passes):
        work()
    return (time.process_time() - begin) / passes


def psutil_pass() -> None:
    for process in psutil.process_iter(FIELDS):
        assert process.pid >= 0


def compiled(folder: Path) -> Path | None:
    compiler = shutil.which("cc") or shutil.which("gcc")
    if compiler is None:
        return None
    target = folder / "sampling_loop"
    source = Path(__file__).with_name("sampling_loop.c")
    subprocess.run([compiler, "-O2", "-o", target, source], check=True)
    return target


def recorder_figures(folder: Path, *pace: str) -> tuple[float, float]:
    """Own share of one core, and seconds from process start to the first sample."""
    out = folder / f"boot{len(pace)}.jsonl"
    begin = time.monotonic()
    recorder = subprocess.Popen(
        [sys.executable, "-m", "plucky_ledger", "record", "--for", "20", "--out", out, "--echo"],
        stdout=subprocess.PIPE,
        text=True,
    )
    first = 0.0
    samples = []
    for line in recorder.stdout:
        if '"kind":"sample"' in line:
            first = first or time.monotonic() - begin
            samples.append(json.loads(line))
    recorder.wait()
    own = samples[-1]["own_cpu_seconds"] - samples[0]["own_cpu_seconds"]
    return own / (samples[-1]["seconds"] - samples[0]["seconds"]), first


def main() -> None:
    there = sum(name.isdigit() for name in os.listdir("/proc"))
    idle = [subprocess.Popen(["sleep", "600"]) for _ in range(max(0, PROCESSES - there))]
    try:
        with tempfile.TemporaryDirectory() as folder:
            loop = compiled(Path(folder))
            source = ThisPc()
            source.sample()
            ours, theirs, yardstick = [], [], []
            for _ in range(ROUNDS):
                ours.append(cpu_of(source.sample))
                theirs.append(cpu_of(psutil_pass, 5))
                if loop:
                    told = subprocess.run([loop, str(PASSES)], capture_output=True, check=True)
                    yardstick.append(float(told.stdout))
            count = sum(name.isdigit() for name in os.listdir("/proc"))
            mine = statistics.median(ours)
            print(f"one pass over {count} processes: {mine * 1e3:.2f} ms CPU")
            if yardstick:
                base = statistics.median(yardstick)
                print(
                    f"  C loop over the same files {base * 1e3:.2f} ms: "
                    f"ratio {mine / base:.2f} (goal ≤ 1.5)"
                )
            base = statistics.median(theirs)
            print(
                f"  psutil.process_iter {base * 1e3:.2f} ms: ratio {mine / base:.3f} (goal ≤ 0.25)"
            )
            share, first = recorder_figures(Path(folder), "--rate", "1")
            print(
                f"recorder at 1 Hz: {share:.2%} of one core (goal ≤ 1.2 %), first sample after "
                f"{first * 1e3:.0f} ms (goal ≤ 150)"
            )
            share, _ = recorder_figures(Path(folder))
            print(f"recorder in its quicker first minute: {share:.2%} of one core")
    finally:
        for process in idle:
            process.kill()
        for process in idle:
            process.wait()


if __name__ == "__main__":
    main()
