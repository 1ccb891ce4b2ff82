"""Control variable: a fixed piece of work that times the machine itself."""

import time
from collections.abc import Callable
from pathlib import Path

from plucky_ledger.recording.lines import ControlLine

ROUNDS = 7
STEPS = 60_000
CPUS = Path("/sys/devices/system/cpu")


def control_lines(clock: Callable[[], float] = time.thread_time) -> list[ControlLine]:
    """The fixed work timed now, and where the kernel tells: frequency and thermal throttling.

    To be taken at rest, after the boot has settled.
    """
    lines = [ControlLine("fixed work", round(fixed_work_seconds(clock), 6))]
    frequency = _number(CPUS / "cpu0/cpufreq/scaling_cur_freq")
    if frequency:
        lines.append(ControlLine("CPU frequency, MHz", frequency / 1000))
    throttled = _number(CPUS / "cpu0/thermal_throttle/core_throttle_count")
    if throttled:
        lines.append(ControlLine("thermal throttling", float(throttled)))
    return lines


def fixed_work_seconds(clock: Callable[[], float] = time.thread_time) -> float:
    """CPU seconds of the fixed work: the quickest of several goes, which others disturbed least."""
    return min(_timed(clock) for _ in range(ROUNDS))


def _timed(clock: Callable[[], float]) -> float:
    begin = clock()
    state = 1
    for _ in range(STEPS):
        state = (state * 1_103_515_245 + 12_345) % 2_147_483_648
    return clock() - begin


def _number(path: Path) -> int:
    try:
        text = path.read_text().strip()
    except OSError:
        return 0
    return int(text) if text.isdigit() else 0
