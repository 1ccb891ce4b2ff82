"""When the parts of a simulation run begin: once what they wait for is up, or the user signed in.

Without some entries others wait for less: a task does not wait for tasks that are missing.
"""

from collections.abc import Mapping
from typing import Any

import numpy as np
from numpy.typing import NDArray

from plucky_ledger.core.boots.samples import Bools, Floats, Indices
from plucky_ledger.core.replay.replay_trace import ReplayTrace
from plucky_ledger.core.replay.task_tables import TaskTables

CHANGING = ("at", "up_at", "signed_in", "_pending")
"""Attributes that change during a run: what a kept state consists of."""


class Releases:
    """Releases over all sets of missing entries and all boots, as a run goes on.

    Parts are numbered through over sets, boots and tasks; ``gone`` are those that are missing,
    shape ``(sets, boots, tasks)``. Instants are seconds since the kernel started.
    """

    def __init__(self, tables: TaskTables, gone: Bools) -> None:
        self._tables = tables
        self._boots = tables.boots
        sets, boots, tasks = self._shape = gone.shape
        self._gone = gone.ravel()
        waits = tables.requires.sum(axis=1)[None]
        missing = np.matmul(gone.swapaxes(0, 1).astype(np.float32), tables.requires)
        self._missing = missing.swapaxes(0, 1).astype(np.int32).ravel()
        """How many of those that each part waits for are missing."""
        self._pending = ((waits - missing.swapaxes(0, 1)) * ~gone).astype(np.int32).ravel()
        """How many each part waits for that are not up."""
        ordered = waits > 0
        lag = self._lag = np.maximum(tables.lag, 0.0)
        anchored = ~ordered & ~tables.at_sign_in[None]
        # All its predecessors are missing: it begins as soon as it is asked to.
        free = ordered & (self._pending.reshape(gone.shape) == 0)
        self.at = np.where(
            free & ~tables.at_sign_in[None],
            (tables.asked[:, None] + lag)[None],
            np.where(anchored, lag[None], np.inf),
        ).ravel()
        """When each part is released; infinite while that is not known."""
        self.at[self._gone] = np.inf
        self.up_at = np.zeros(gone.size)
        """When each part was up; 0 where it never was."""
        self._by_sign_in = tables.at_sign_in[None] & (~ordered | free) & ~gone
        """Parts that wait for nothing but the user's signing in."""
        self.signed_in = np.full((sets, boots), np.inf)
        self._leads = np.zeros(boots * tasks, dtype=bool)
        """Tasks that something waits for."""
        self._leads[list(tables.successors)] = True
        for number, boot in enumerate(self._boots):
            if boot.sign_in_task is None:
                self._sign_in(np.arange(sets), number, np.full(sets, boot.signed_in))
            else:
                self._leads[number * tasks + boot.sign_in_task] = True

    def state(self) -> dict[str, NDArray[Any]]:
        """What can be gone on from."""
        return {name: getattr(self, name).copy() for name in CHANGING}

    def go_on_from(self, state: Mapping[str, NDArray[Any]], freed: Mapping[int, float]) -> None:
        """Take the state of the same boot with nothing missing; ``freed`` as ``freed_in`` says."""
        for name, array in state.items():
            setattr(self, name, array.copy())
        self._pending = (self._pending - self._missing) * ~self._gone
        for task, instant in freed.items():
            # Its other predecessors are up already: no later event would release it.
            late = self._tables.at_sign_in[0, task] and not np.isfinite(self.signed_in[0, 0])
            if self._pending[task] == 0 and not late:
                self.at[task] = instant
        self.at[self._gone] = np.inf

    def freed_in(self, whole: ReplayTrace) -> dict[int, float]:
        """When tasks begin whose predecessors are missing and which wait for others now, or for
        none: seconds since the kernel started, in a boot that went like ``whole`` until then.
        """
        gone, before = self._gone, self._tables.requires[0] > 0
        begin = {}
        for task in np.flatnonzero(~gone & before[gone].any(axis=0)):
            others = before[:, task] & ~gone
            up, lag = whole.up_at[others], self._lag[0, task]
            if others.any():
                begin[int(task)] = float(up.max()) + lag if (up > 0).all() else np.inf
            elif self._tables.at_sign_in[0, task]:
                begin[int(task)] = whole.signed_in + lag
            else:
                begin[int(task)] = float(self._tables.asked[0]) + lag
        return begin

    def note_up(self, which: Indices, up_at: Floats) -> Indices:
        """Parts are up; returns those that are released by that."""
        self.up_at[which] = up_at
        task = which % self._leads.size
        freed = [
            self._let_go(leader, which[task == leader] // self._leads.size)
            for leader in sorted(set(task[self._leads[task]].tolist()))
        ]
        return np.concatenate([which[:0], *freed])

    def _let_go(self, task: int, sets: Indices) -> Indices:
        """A task is up in some sets: tasks whose last predecessor it was are released, and the
        sign-in may be shown. Returns the parts that were released.
        """
        boot, tasks = task // self._shape[2], self._leads.size
        up_at = self.up_at[sets * tasks + task]
        freed = sets[:0]
        if task in self._tables.successors:
            after = self._tables.successors[task]
            waiting = sets[:, None] * tasks + after[None]
            self._pending[waiting] -= 1
            free = (self._pending[waiting] == 0) & ~self._gone[waiting]
            freed = waiting[free]
            self.at[freed] = (up_at[:, None] + self._lag.ravel()[after][None])[free]
        if self._boots[boot].sign_in_task == task % self._shape[2]:
            shown = up_at + self._boots[boot].sign_in_lag
            freed = np.concatenate((freed, self._sign_in(sets, boot, shown)))
        return freed

    def _sign_in(self, sets: Indices, boot: int, instants: Floats) -> Indices:
        """The user signs in to a boot in some sets; returns the parts that this releases."""
        self.signed_in[sets, boot] = instants
        late = self._by_sign_in[sets, boot]
        at = np.where(late, instants[:, None] + self._lag[boot][None], np.inf)
        parts = (sets[:, None] * len(self._boots) + boot) * self._shape[2] + np.arange(
            self._shape[2]
        )
        self.at[parts] = np.minimum(self.at[parts], at)
        return np.asarray(parts[late])
