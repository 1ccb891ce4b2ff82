"""What one sampling pass costs, against a C loop and against psutil's process_iter.

All read the real /proc of this machine, with enough idle processes started to make 450. Ours and
the C loop do so once a second, and both read every process: at that pace no reading is old enough
to be kept. Then the recorder as a program: its own share of a core at one sample a second, and how
soon after its start the first sample is there.
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

from goals import cpu_seconds, measured, often
from plucky_ledger.capture.sampling.this_pc import ThisPc

PROCESSES = 450
PASSES = often(20, 10)
SETTLES = 5
"""Passes until every idle process is read in its turn."""
FIELDS = ["pid", "ppid", "name", "cpu_times", "memory_info", "create_time"]


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


def paced(source: ThisPc) -> float:
    """CPU seconds of one pass, one every second as in a recording."""
    took = []
    for _ in range(PASSES):
        time.sleep(1.0)
        took.append(cpu_seconds(source.sample))
    return statistics.mean(took)


def main() -> None:
    there = sum(name.isdigit() for name in os.listdir("/proc"))
    idle = [subprocess.Popen(["sleep", "600"]) for _ in range(max(0, PROCESSES - there))]
    try:
        with tempfile.TemporaryDirectory() as folder:
            loop = compiled(Path(folder))
            source = ThisPc()
            for _ in range(SETTLES):
                source.sample()
                time.sleep(1.0)
            ours = paced(source)
            count = sum(name.isdigit() for name in os.listdir("/proc"))
            print(f"one pass a second over {count} processes: {ours * 1e3:.2f} ms CPU")
            if loop is not None:
                told = subprocess.run([loop, str(PASSES)], capture_output=True, check=True)
                base = float(told.stdout)
                measured("one pass, × a C loop that reads the same files", ours / base, 2.0)
            theirs = statistics.median(cpu_seconds(psutil_pass) for _ in range(5))
            measured("one pass, × psutil.process_iter", ours / theirs, 0.25)
            share, first = recorder_figures(Path(folder), "--rate", "1")
            measured("recorder at 1 Hz, share of a core", share, 0.012, "{:.2%}")
            measured("ms from the recorder's start to its first sample", first * 1e3, 150, "{:.0f}")
            share, _ = recorder_figures(Path(folder))
            print(f"recorder in its quicker first minute: {share:.2%} of one core")
    finally:
        for process in idle:
            process.kill()
        for process in idle:
            process.wait()


if __name__ == "__main__":
    main()
