"""The tasks of all boots of a round as arrays, as the simulation uses them."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from plucky_ledger.core.boots.samples import Bools, Floats, Indices
from plucky_ledger.core.replay.workload import STEP_SECONDS, Task, Workload

Singles = NDArray[np.float32]
"""What is worked with in every step, over all replicas: half as much to be moved through memory. It
tells minutes to a ten-thousandth of a second."""

WINDOWS = (32, 8)
"""Steps that a light task is advanced by at once: in the long windows, and in the short ones within
them where it does not stay light for as long."""
LIGHT_SHARE = 0.01
"""Most that a light task asks for: share of a core, and of the drive's time."""


@dataclass(frozen=True, kw_only=True, eq=False)
class TaskTables:
    """Every task of every boot; shapes ``(boots, tasks)`` unless stated. Boots with fewer tasks are
    padded with tasks that do nothing.
    """

    boots: tuple[Workload, ...]
    ids: NDArray[np.object_]
    rates: Singles
    """Shape ``(boots, tasks, rows, 4)``, per own second in each step: computing, moving data, CPU
    work, disk work."""
    length: Floats
    up_after: Floats
    relative_io_cost: Floats
    seek_discount: Floats
    lag: Floats
    at_sign_in: Bools
    requires: NDArray[np.float32]
    """``requires[boot, predecessor, successor]``: 1 where the predecessor must be up before the
    successor begins, else 0."""

    @property
    def asked(self) -> Floats:
        """When the services of each boot began to be asked to start."""
        return np.array(
            [
                min((t.lag for t in boot.tasks if not t.after and not t.at_sign_in), default=0.0)
                for boot in self.boots
            ]
        )

    @cached_property
    def window_rates(self) -> Mapping[int, Singles]:
        """The rates averaged over each kind of window that begins at each row; shapes as
        ``rates``.
        """
        rows = self.rates.shape[2]
        # Nothing is done after the last row.
        padding = (0, 0), (0, 0), (1, max(WINDOWS)), (0, 0)
        totals = np.cumsum(np.pad(self.rates, padding), axis=2, dtype=np.float64)
        return {
            steps: ((totals[:, :, steps : steps + rows] - totals[:, :, :rows]) / steps).astype(
                np.float32
            )
            for steps in WINDOWS
        }

    @cached_property
    def light_for(self) -> NDArray[np.int32]:
        """For how many rows from each on a task is light; shape ``(boots, tasks, rows)``."""
        rows = self.rates.shape[2]
        at = np.arange(rows, dtype=np.int32)
        heavy = np.where((self.rates > LIGHT_SHARE).any(axis=3), at, 2 * rows).astype(np.int32)
        return np.minimum.accumulate(heavy[:, :, ::-1], axis=2)[:, :, ::-1] - at

    @cached_property
    def successors(self) -> Mapping[int, Indices]:
        """Tasks that wait for another one, as numbers over all boots."""
        tasks = self.length.shape[1]
        return {
            boot * tasks + task: boot * tasks + np.flatnonzero(self.requires[boot, task])
            for boot, task in np.argwhere(self.requires.any(axis=2)).tolist()
        }

    def gone(self, sets: Sequence[frozenset[str]]) -> Bools:
        """Which tasks are missing in each set, shape ``(sets, boots, tasks)``."""
        places: dict[str, list[int]] = {}
        for place, name in enumerate(self.ids.ravel().tolist()):
            places.setdefault(name, []).append(place)
        gone = np.zeros((len(sets), self.ids.size), dtype=bool)
        for row, missing in zip(gone, sets, strict=True):
            for name in missing:
                row[places.get(name, [])] = True
        return gone.reshape(len(sets), *self.ids.shape)


def tables_of(boots: Sequence[Workload]) -> TaskTables:
    """The arrays of some boots."""
    most = max(len(boot.tasks) for boot in boots)
    rows = max(len(task.table.cpu_time) for boot in boots for task in boot.tasks)
    shape = (len(boots), most)
    tables = TaskTables(
        boots=tuple(boots),
        ids=np.full(shape, "", dtype=object),
        rates=np.zeros((*shape, rows + 1, 4), dtype=np.float32),
        length=np.zeros(shape),
        up_after=np.full(shape, np.inf),
        relative_io_cost=np.ones(shape),
        seek_discount=np.zeros(shape),
        lag=np.zeros(shape),
        at_sign_in=np.zeros(shape, dtype=bool),
        requires=np.zeros((len(boots), most, most), dtype=np.float32),
    )
    for number, boot in enumerate(boots):
        for index, task in enumerate(boot.tasks):
            _put(tables, number, index, task)
    return tables


def _put(tables: TaskTables, boot: int, index: int, task: Task) -> None:
    table = task.table
    columns = (table.cpu_time, table.disk_time, table.cpu_work, table.disk_work)
    for number, column in enumerate(columns):
        tables.rates[boot, index, : len(column) - 1, number] = np.diff(column) / STEP_SECONDS
    tables.length[boot, index] = table.length
    tables.relative_io_cost[boot, index] = task.relative_io_cost
    tables.seek_discount[boot, index] = task.seek_discount
    tables.up_after[boot, index] = task.up_after
    tables.lag[boot, index] = task.lag
    tables.at_sign_in[boot, index] = task.at_sign_in
    tables.requires[boot, list(task.after), index] = 1
    tables.ids[boot, index] = task.entry_id
