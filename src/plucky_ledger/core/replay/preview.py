"""Preview of a boot: a recorded boot as the replay predicts it without some of its entries.

A simulated boot is shorter than the recorded one by whatever was not recorded. So everything keeps
its recorded place, less the time by which it comes earlier in the simulation without the entries
than in the one with them.
"""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.core.boots.samples import Floats
from plucky_ledger.core.replay.replay import Replay
from plucky_ledger.core.replay.replay_trace import ReplayTrace
from plucky_ledger.core.replay.replayed import CalibrationFactors
from plucky_ledger.core.replay.workload import STEP_SECONDS, Workload


@dataclass(frozen=True)
class Earlier:
    """By how many seconds an entry comes earlier."""

    begins: float
    is_up: float


@dataclass(frozen=True, kw_only=True, eq=False)
class Preview:
    """What a plan does to one boot."""

    missing: frozenset[str]
    """Entries that do not start in it."""
    entries: Mapping[str, Earlier]
    marks: Mapping[Mark, float]
    """Seconds by which marks come earlier."""
    edges: Floats
    """Shape (n + 1,): seconds since the kernel started at which the steps of the curves end."""
    cpu: Floats
    """Shape (n,): cores at work."""
    drive: Floats
    """Shape (n,): share of the time the drive has work."""
    voices: Mapping[str, tuple[Floats, Floats]]
    """The same two curves for each entry that starts in it."""


class PreviewedBoot:
    """One boot made ready to be previewed again and again; ``settled`` is when it did."""

    def __init__(self, workload: Workload, settled: float, calibration: CalibrationFactors) -> None:
        self._workload, self._calibration = workload, calibration
        self._replay = Replay([workload], [settled])
        self._whole = self._replay.traced(frozenset())
        self._ids = [task.entry_id for task in workload.tasks]

    def without(self, missing: frozenset[str]) -> Preview:
        """The boot without some entries."""
        without = self._replay.traced(missing, self._whole)
        there = [(at, name) for at, name in enumerate(self._ids) if name and name not in missing]
        whole = self._whole
        cpu, drive = without.cpu / STEP_SECONDS, without.disk / STEP_SECONDS
        steps = np.arange(len(cpu) + 1, dtype=np.float64) * STEP_SECONDS
        return Preview(
            missing=missing,
            entries={
                name: Earlier(
                    _earlier(float(whole.begins[at]), float(without.begins[at])),
                    _earlier(float(whole.up_at[at]), float(without.up_at[at])),
                )
                for at, name in there
            },
            marks=self._marks(without),
            edges=steps * self._calibration.settled,
            cpu=cpu.sum(axis=1),
            drive=drive.sum(axis=1),
            voices={name: (cpu[:, at], drive[:, at]) for at, name in there},
        )

    def _marks(self, without: ReplayTrace) -> dict[Mark, float]:
        """By how much each comes earlier."""
        whole = self._whole
        before, after = (boot.replayed.scaled_by(self._calibration) for boot in (whole, without))
        signed_in = _earlier(whole.signed_in, without.signed_in)
        desktop, task = signed_in, self._workload.desktop_task
        if task is not None:
            desktop = _earlier(float(whole.up_at[task]), float(without.up_at[task]))
        return {
            Mark.SETTLED: before.settled - after.settled,
            Mark.SYSTEM_UP: before.system_up - after.system_up,
            Mark.SIGN_IN_SHOWN: signed_in,
            Mark.SIGNED_IN: signed_in,
            Mark.DESKTOP_SHOWN: desktop,
            Mark.READY: desktop,
        }


def _earlier(whole: float, without: float) -> float:
    """By how much something comes earlier; nothing where it never came in one of them."""
    usable = np.isfinite(whole) and np.isfinite(without) and whole > 0 and without > 0
    return whole - without if usable else 0.0
