"""Drift: did the machine itself get faster or slower between two rounds?

The kernel stage and a fixed piece of work timed at rest are beyond the reach of every startup
entry. If they moved, the PC, its cooling or its host did, and a plain comparison would give that
to the changes.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from statistics import median

from plucky_ledger.core.boots.boot import Boot, counted
from plucky_ledger.core.measures import Measure, Reading

CONTROLS = ("kernel stage", "fixed work")
MOVED = 0.04
"""A control that moved by less than this is taken as standing still."""
IN_MACHINE_TIME = frozenset({Measure.READY, Measure.SETTLED, Measure.SYSTEM_UP, Measure.CPU_WORK})
"""Measures that grow and shrink with the speed of the machine."""


@dataclass(frozen=True)
class Drift:
    """How much slower (above 1) or faster the machine itself was in the later round."""

    control: str
    ratio: float
    """Typical control after, divided by before."""


def drift_between(before: tuple[Boot, ...], after: tuple[Boot, ...]) -> Drift | None:
    """The control that moved most between two rounds, if one clearly did.

    Clearly: by more than ``MOVED``, and more than the control differs from boot to boot.
    """
    drifts = [drift for name in CONTROLS if (drift := _moved(name, before, after)) is not None]
    return max(drifts, key=lambda drift: abs(math.log(drift.ratio)), default=None)


def _moved(name: str, before: tuple[Boot, ...], after: tuple[Boot, ...]) -> Drift | None:
    sides = [_values(name, boots) for boots in (before, after)]
    if not all(sides):
        return None
    medians = [median(side) for side in sides]
    ratio = medians[1] / medians[0]
    apart = sides[0][-1] < sides[1][0] or sides[1][-1] < sides[0][0]
    return Drift(name, ratio) if apart and abs(ratio - 1) > MOVED else None


def _values(name: str, boots: tuple[Boot, ...]) -> list[float]:
    return sorted(
        boot.context.controls[name] for boot in counted(boots) if name in boot.context.controls
    )


def adjusted(readings: Sequence[Reading], drift: Drift) -> list[Reading]:
    """What the earlier readings would have been on the machine as it was later."""
    return [Reading(reading.value * drift.ratio, reading.censored) for reading in readings]
