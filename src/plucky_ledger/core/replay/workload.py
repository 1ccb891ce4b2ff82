"""A boot as a workload: its tasks, what each needs, and what each has to wait for.

Each startup entry, each service of a manager that told nothing, and the system's own work, is a
task: when it is released, what it does (compute, move data, wait), and which other tasks have to be
up before it begins. The table of a task says how long it would take alone on the PC.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from plucky_ledger.core.boots.marks import Mark, human_wait
from plucky_ledger.core.boots.samples import Floats
from plucky_ledger.core.boots.unlisted import OF_GROUP

SYSTEM_TASK = ""
"""Task name of work that belongs to no entry."""
STEP_SECONDS = 0.25
"""Step of a task's table, in seconds of its own time, and step of the replay."""


@dataclass(frozen=True, eq=False)
class Table:
    """What a task does, one row per ``STEP_SECONDS`` of its own time: as long as it would take
    alone on the PC. Columns are cumulative, from 0.
    """

    cpu_time: Floats
    """Own time spent computing."""
    cpu_work: Floats
    """CPU seconds; more than ``cpu_time`` where several of its threads compute at once."""
    disk_time: Floats
    """Own time spent moving data."""
    disk_work: Floats
    """Seconds the drive is busy for it while others use it too."""
    held_up: tuple[Floats, Floats]
    """Own time spent waiting while the cores, and the drive, had more to do than they could."""
    length: float
    """Own time in total."""


@dataclass(frozen=True, kw_only=True, eq=False)
class Task:
    """One entry's part of a boot."""

    entry_id: str
    table: Table
    relative_io_cost: float
    """Disk time of its data relative to the average byte; scattered data costs more than 1."""
    seek_discount: float
    """Share (0 to 1) of its disk work that it saves when it has the drive to itself."""
    up_after: float
    """Own time after which its successors may begin; infinite where that was not recorded."""
    after: tuple[int, ...]
    """Indices of the tasks that have to be up first."""
    at_sign_in: bool
    """Whether its release is counted from signing in, or else from the kernel's start."""
    lag: float
    """Seconds between its release and its beginning."""

    @property
    def is_entry(self) -> bool:
        """Whether it is an entry, and not the system or a service that no manager told of."""
        return self.entry_id != SYSTEM_TASK and not self.entry_id.startswith(OF_GROUP)


@dataclass(frozen=True, kw_only=True, eq=False)
class Workload:
    """A boot as tasks. Instants are seconds since the kernel started."""

    tasks: tuple[Task, ...]
    cores: int
    capacity: float
    """CPU seconds that its programs can have in a second: as many as cores, or what a host gives.
    """
    signed_in: float
    """When the user signed in; 0 where that did not happen or was not recorded."""
    sign_in_task: int | None
    """Index of the task that shows the sign-in screen once it is up; signing in follows by
    ``sign_in_lag``."""
    sign_in_lag: float
    sign_in_wait: float
    """Seconds the PC waited at the sign-in screen for the user; charged to no entry."""
    system_up: float
    system_tasks: frozenset[int]
    """Indices of the tasks that the mark system up waits for."""
    desktop_task: int | None
    """Index of the task that shows the desktop once it is up."""
    desktop_shown: float
    """0 where it is not known."""
    end: float
    """Last sample."""
    moved_before: float = 0.0
    """Seconds the drive had been busy before the first sample, mostly for the kernel."""
    computed_before: float = 0.0
    """CPU seconds used before the first sample."""
    before: Mapping[Mark, float] = field(default_factory=dict)
    """Marks of a pause for the user before system up, as for a passphrase; it comes whatever
    starts."""
    asked_for: frozenset[str] = frozenset()
    """Entries that asked for the passphrase in that pause: the PC cannot be opened without them."""

    @cached_property
    def entry_ids(self) -> frozenset[str]:
        """Entries that took part."""
        return frozenset(task.entry_id for task in self.tasks if task.is_entry)

    @cached_property
    def unlisted_share(self) -> float:
        """Share (0 to 1) of the CPU work that services did of which no manager told."""
        work = {task.entry_id: float(task.table.cpu_work[-1]) for task in self.tasks}
        unlisted = sum(cpu for name, cpu in work.items() if name.startswith(OF_GROUP))
        return unlisted / max(sum(work.values()), 1e-9)

    @property
    def human_wait(self) -> float:
        """Seconds of both pauses."""
        return self.sign_in_wait + human_wait(self.before)

    def marks(self, signed_in: float) -> dict[Mark, float]:
        """Marks of both pauses where the user signed in at ``signed_in`` (seconds)."""
        marks = dict(self.before)
        if self.sign_in_wait and np.isfinite(signed_in):
            marks[Mark.SIGN_IN_SHOWN] = signed_in - self.sign_in_wait
            marks[Mark.SIGNED_IN] = signed_in
        return marks
