"""What one simulated boot came to: its marks, and when it settled."""

from dataclasses import dataclass, replace

import numpy as np

from plucky_ledger.core.boots.marks import machine_seconds
from plucky_ledger.core.boots.samples import Floats, Rates
from plucky_ledger.core.boots.settle import DEFAULT_LEVELS, Settled, settled_in
from plucky_ledger.core.replay.replayed import Replayed
from plucky_ledger.core.replay.workload import STEP_SECONDS, Workload

FINE_LEVELS = replace(DEFAULT_LEVELS, step_seconds=STEP_SECONDS)
"""Levels of calm for a simulated boot, which has no measuring noise: the length of a spike is told
more finely than in a recording."""


@dataclass(frozen=True, eq=False)
class ReplicaMarks:
    """What happened when in a simulated boot, in seconds since the kernel started."""

    up_at: Floats
    """When each task was up; 0 where it never was."""
    signed_in: float
    """Infinite where nobody did."""


def replayed_boot(boot: Workload, marks: ReplicaMarks, shares: Floats) -> Replayed:
    """One simulated boot; ``shares`` (0 to 1) is what it used of CPU and drive in each step, shape
    ``(2, steps)``.
    """
    system = list(boot.system_tasks)
    up = float(marks.up_at[system].max()) if system else 0.0
    edges = np.arange(shares.shape[1] + 1, dtype=np.float64) * STEP_SECONDS
    usable = Rates(
        start=edges[:-1],
        end=edges[1:],
        cpu_share=shares[0],
        disk_share=shares[1],
        disk_bytes_per_second=np.zeros_like(shares[1]),
    )
    settled = settled_in(usable, boot.cores, max(up, _desktop(boot, marks)), FINE_LEVELS)
    if settled is None:  # nothing was simulated for so long that it could have settled
        settled = Settled(float(edges[-1]), censored=True, own_rest=False)
    of_the_boot = boot.marks(marks.signed_in)
    return Replayed(
        machine_seconds(settled.seconds, of_the_boot),
        settled.censored,
        machine_seconds(up, of_the_boot),
    )


def _desktop(boot: Workload, marks: ReplicaMarks) -> float:
    """When the desktop was shown, or else the user signed in."""
    if not np.isfinite(marks.signed_in):
        return boot.desktop_shown or boot.signed_in
    task = boot.desktop_task
    if task is not None and marks.up_at[task] > 0:
        return max(marks.signed_in, float(marks.up_at[task]))
    return marks.signed_in + max(0.0, boot.desktop_shown - boot.signed_in)
