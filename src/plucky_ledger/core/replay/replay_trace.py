"""Trace of one simulated boot, and the states from which another can be continued."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from numpy.typing import NDArray

from plucky_ledger.core.boots.samples import Floats
from plucky_ledger.core.replay.replayed import Replayed
from plucky_ledger.core.replay.task_tables import Singles


@dataclass(frozen=True, kw_only=True, eq=False)
class ReplayTrace:
    """Trace of one simulated boot. Seconds since the kernel started; shapes ``(tasks,)``."""

    begins: Floats
    """When each task began; infinite where it never did."""
    up_at: Floats
    """When each task was up; 0 where it never was."""
    signed_in: float
    replayed: Replayed
    cpu: Floats
    """Shape ``(steps, tasks)``: CPU seconds in each step."""
    disk: Floats
    """Shape ``(steps, tasks)``: disk seconds in each step."""
    used: Singles
    """Shape ``(2, steps)``: both of all tasks together, as the run added them up."""
    states: tuple["State", ...]
    """Kept states, from which a run without some entries can be continued."""


@dataclass(frozen=True, eq=False)
class State:
    """The complete state of a run before one of its steps."""

    step: int
    arrays: Mapping[str, NDArray[Any]]
    releases: Mapping[str, NDArray[Any]]
