"""One simulation run: time advances in small steps, for all sets of missing entries and all boots
at once.
"""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from plucky_ledger.core.boots.marks import machine_seconds
from plucky_ledger.core.boots.samples import Floats, Samples
from plucky_ledger.core.boots.settle import DEFAULT_LEVELS, find_settled
from plucky_ledger.core.replay.contention import exclusivity
from plucky_ledger.core.replay.replayed import Replayed
from plucky_ledger.core.replay.task_tables import Bools, TaskTables
from plucky_ledger.core.replay.workload import STEP_SECONDS

FINE_LEVELS = replace(DEFAULT_LEVELS, step_seconds=STEP_SECONDS)
"""Levels of calm for a simulated boot, which has no measuring noise: the length of a spike is told
more finely than in a recording."""
LEAST_SLOWNESS = 0.2
"""Slowdown of the drive while it is idle: the first task to use it is not slowed down."""
STATE_STEPS = 10
"""Steps between two states that a traced run keeps."""
CHANGING = (
    "_progress",
    "_speed",
    "_up",
    "_up_at",
    "_pending",
    "_release",
    "_signed_in",
    "_cpu_slow",
    "_disk_slow",
    "_exclusivity",
)
"""Attributes that change during a run: what a kept state consists of."""
ROUNDS = 2
"""Fixed-point iterations in which the shares of a step are found, starting from those of the step
before."""


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
    used: tuple[Floats, Floats]
    """Totals up to each step over all tasks: CPU seconds and disk seconds."""
    states: tuple["State", ...]
    """Kept states, from which a run without some entries can be continued."""


@dataclass(frozen=True, eq=False)
class State:
    """The complete state of a run before one of its steps."""

    step: int
    arrays: Mapping[str, NDArray[Any]]


class ReplayRun:
    """One run over all sets of missing entries and all boots; arrays have shape ``(sets, boots,
    tasks)``.
    """

    def __init__(self, tables: TaskTables, gone: Bools, keeps: bool = False) -> None:
        self._tables = tables
        self._keeps = keeps
        self._each: list[tuple[Floats, Floats]] = []
        """CPU seconds and disk time of each task in each step, where a trace is kept."""
        self._states: list[State] = []
        self._boots = tables.boots
        self._gone = gone
        sets, boots, tasks = gone.shape
        self._progress = np.zeros(gone.shape)
        self._speed = np.ones(gone.shape)
        self._up = gone.copy()
        self._up_at = np.zeros(gone.shape)
        waits = tables.requires.sum(axis=1)[None].astype(np.int32)
        there = (~gone).astype(np.int32)
        # Tasks do not wait for tasks that are missing.
        self._missing = np.einsum("sbj,bji->sbi", gone.astype(np.int32), tables.requires)
        self._pending = (waits - self._missing) * there
        ordered = waits > 0
        anchored = ~ordered & ~tables.at_sign_in[None]
        self._release = np.where(anchored, np.maximum(tables.lag[None], 0.0), np.inf)
        self._release = np.broadcast_to(self._release, gone.shape).copy()
        # All its predecessors are missing: it begins as soon as it is asked to.
        free = ordered & (self._pending == 0)
        asked = np.maximum(tables.lag[None], 0.0)
        self._release = np.where(
            free & ~tables.at_sign_in[None], tables.asked[None, :, None] + asked, self._release
        )
        self._free_at_sign_in = free & tables.at_sign_in[None]
        self._release[gone] = np.inf
        self._signed_in = np.full((sets, boots), np.inf)
        for number, boot in enumerate(self._boots):
            if boot.sign_in_task is None:
                self._sign_in(slice(None), number, boot.signed_in)
        self._nothing = np.zeros((sets, boots))
        self._begins = float(self._release.min())
        """Nothing is released earlier."""
        self._cpu_slow, self._disk_slow = np.ones((sets, boots)), np.ones((sets, boots))
        self._exclusivity = np.zeros(gone.shape)
        self._cores = np.array([boot.cores for boot in self._boots], dtype=float)
        self._flat = tables.rates.reshape(-1, 4)
        rows = tables.rates.shape[2]
        self._first_row = (np.arange(boots * tasks) * float(rows)).reshape(1, boots, tasks)

    def _sign_in(self, which: slice | Bools, boot: int, instant: float) -> None:
        self._signed_in[which, boot] = instant
        late = self._tables.at_sign_in[boot] & (self._tables.requires[boot].sum(axis=0) == 0)
        late = late[None] | self._free_at_sign_in[:, boot]
        release = np.where(late, instant + np.maximum(self._tables.lag[boot], 0.0)[None], np.inf)
        changed = np.minimum(self._release[:, boot], release)
        self._release[which, boot] = np.where(self._gone[:, boot], np.inf, changed)[which]

    def run(self, until: float, whole: ReplayTrace | None = None) -> list[list[Replayed]]:
        """Advance to an instant and find when each boot settled.

        ``whole`` is the trace of the same boot with nothing missing, which the run is continued
        from where possible.
        """
        steps = int(np.ceil(until / STEP_SECONDS))
        cpu = np.zeros((steps + 1, *self._gone.shape[:2]))
        disk = np.zeros_like(cpu)
        begin = self._go_on_from(whole) if whole is not None else 0
        if whole is not None:
            cpu[: begin + 1], disk[: begin + 1] = (used[: begin + 1] for used in whole.used)
        for step in range(begin, steps):
            if self._keeps and whole is None and step % STATE_STEPS == 0:
                self._states.append(self._state(step))
            used, moved = self._step(step * STEP_SECONDS)
            cpu[step + 1], disk[step + 1] = cpu[step] + used, disk[step] + moved
        self._used = cpu, disk
        return [
            [
                self._result(which, boot, cpu[:, which, boot], disk[:, which, boot])
                for boot in range(len(self._boots))
            ]
            for which in range(self._gone.shape[0])
        ]

    def traced(self, replayed: Replayed) -> ReplayTrace:
        """The trace of the first set and boot."""
        cpu, disk = (np.array([step[kind] for step in self._each]) for kind in (0, 1))
        return ReplayTrace(
            begins=self._release[0, 0].copy(),
            up_at=np.where(self._gone[0, 0], 0.0, self._up_at[0, 0]),
            signed_in=float(self._signed_in[0, 0]),
            replayed=replayed,
            cpu=cpu,
            disk=disk,
            used=self._used,
            states=tuple(self._states),
        )

    def _state(self, step: int) -> State:
        return State(step, {name: getattr(self, name).copy() for name in CHANGING})

    def _go_on_from(self, whole: ReplayTrace) -> int:
        """Restore the last state of ``whole`` that no missing entry has influenced yet; returns its
        step.
        """
        gone, freed = self._gone[0, 0], self._freed(whole)
        instants = [*whole.begins[gone], *freed.values()]
        limit = min(instants, default=np.inf) - STEP_SECONDS
        states = [state for state in whole.states if state.step * STEP_SECONDS <= limit]
        if not states:
            return 0
        state = states[-1]
        for name, array in state.arrays.items():
            setattr(self, name, array.copy())
        self._up |= self._gone
        self._pending = (self._pending - self._missing) * ~self._gone
        for task, instant in freed.items():
            # Its other predecessors are up already: no later event would release it.
            late = self._tables.at_sign_in[0, task] and not np.isfinite(self._signed_in[0, 0])
            if self._pending[0, 0, task] == 0 and not late:
                self._release[0, 0, task] = instant
        self._release[self._gone] = np.inf
        self._each = list(zip(whole.cpu[: state.step], whole.disk[: state.step], strict=True))
        return state.step

    def _freed(self, whole: ReplayTrace) -> dict[int, float]:
        """When tasks begin whose predecessors are missing and which wait for others now, or for
        none: seconds since the kernel started, in a boot that went like ``whole`` until then.
        """
        gone, before = self._gone[0, 0], self._tables.requires[0] > 0
        begin = {}
        for task in np.flatnonzero(~gone & before[gone].any(axis=0)):
            others = before[:, task] & ~gone
            up, lag = whole.up_at[others], max(self._tables.lag[0, task], 0.0)
            if others.any():
                begin[int(task)] = float(up.max()) + lag if (up > 0).all() else np.inf
            elif self._tables.at_sign_in[0, task]:
                begin[int(task)] = whole.signed_in + lag
            else:
                begin[int(task)] = float(self._tables.asked[0]) + lag
        return begin

    def _step(self, now: float) -> tuple[Floats, Floats]:
        """Advance one step; returns the CPU seconds and disk time used in it, shapes ``(sets,
        boots)``.
        """
        r = self._tables
        wide = STEP_SECONDS
        if now + wide <= self._begins:
            if self._keeps:
                idle = np.zeros(self._gone.shape[2])
                self._each.append((idle, idle))
            return self._nothing, self._nothing
        active = (self._release < now + wide) & (self._progress < r.length[None])
        # A task released within the step takes part in the rest of it.
        width = np.where(active, np.minimum(now + wide - self._release, wide), 0.0)
        middle = self._progress + 0.5 * self._speed * width
        rows = self._first_row + np.minimum(middle, r.length) * (1 / STEP_SECONDS)
        rates = self._flat.take(rows.astype(np.int64), axis=0)
        cpu_time, disk_time = rates[..., 0], rates[..., 2]
        price = 1 - r.seek_discount * self._exclusivity
        cpu_work, disk_work = rates[..., 1], rates[..., 3] * price
        waiting = 1 - cpu_time - disk_time
        # The drive serves tasks in turn, some bytes each: a task with costly data is slowed down
        # less by others than one with cheap data, and no task is faster than alone.
        alone, in_turn = disk_time * price, disk_time / r.relative_io_cost
        width_share = width * (1 / wide)
        cpu_wanted, disk_wanted = cpu_work * width_share, disk_work * width_share
        pace = waiting, cpu_time, alone, in_turn
        self._speed = speed = self._shared(pace, cpu_wanted, disk_wanted)
        done = np.minimum(self._progress + speed * width, r.length)
        moved = done - self._progress
        turns = rates[..., 3] * moved / r.relative_io_cost
        self._exclusivity = exclusivity(
            turns / np.maximum(turns.sum(axis=-1, keepdims=True), 1e-12)
        )
        used = _summed(cpu_work, moved), _summed(disk_work, moved)
        if self._keeps:
            self._each.append(((cpu_work * moved)[0, 0], (disk_work * moved)[0, 0]))
        self._note_up(now, width, speed, done)
        self._progress = done
        return used

    def _shared(
        self, pace: tuple[Floats, Floats, Floats, Floats], cpu_wanted: Floats, disk_wanted: Floats
    ) -> Floats:
        """Speed of each task (own seconds per second, 0 to 1) with cores and drive shared; ``pace``
        as in ``_speeds``.

        How much a task asks of cores and drive depends on its speed and the other way round: a
        fixed point, found by iteration from the speeds of the step before.
        """
        for _ in range(ROUNDS):
            speed = self._speeds(*pace)
            cpu, disk = _summed(cpu_wanted, speed), _summed(disk_wanted, speed)
            cpu_slow = np.maximum(1.0, self._cpu_slow * cpu / self._cores)
            disk_slow = np.maximum(LEAST_SLOWNESS, self._disk_slow * disk)
            found = (cpu_slow == self._cpu_slow).all() and (disk_slow == self._disk_slow).all()
            if found:  # no task is slowed down: more iterations would find the same
                return speed
            self._cpu_slow, self._disk_slow = cpu_slow, disk_slow
        return self._speeds(*pace)

    def _speeds(self, waiting: Floats, computing: Floats, alone: Floats, in_turn: Floats) -> Floats:
        """Speed of each task from the shares of waiting, computing and moving data in its own time;
        the disk share as it is alone with the drive and as it is served in turn.
        """
        moving = np.maximum(alone, in_turn * self._disk_slow[..., None])
        return 1 / (waiting + computing * self._cpu_slow[..., None] + moving)

    def _note_up(self, now: float, width: Floats, speed: Floats, done: Floats) -> None:
        newly = ~self._up & (done >= self._tables.up_after[None]) & (self._release < np.inf)
        if not newly.any():
            return
        begin = np.maximum(now, np.where(np.isfinite(self._release), self._release, now))
        late = (self._tables.up_after[None] - self._progress) / np.maximum(speed, 1e-9)
        self._up_at = np.where(newly, begin + np.clip(late, 0.0, width), self._up_at)
        self._up |= newly
        for boot, task in zip(*np.nonzero(newly.any(axis=0)), strict=True):
            which = newly[:, boot, task]
            self._let_go(which, int(boot), int(task))

    def _let_go(self, which: Bools, boot: int, task: int) -> None:
        """A task is up: tasks whose last predecessor it was are released, and the sign-in may be
        shown.
        """
        waiting = self._tables.requires[boot, task] > 0
        if waiting.any():
            self._pending[which, boot] -= waiting.astype(np.int32)
            free = which[:, None] & waiting[None] & (self._pending[:, boot] == 0)
            free &= ~self._gone[:, boot]
            at = self._up_at[:, boot, task][:, None] + np.maximum(self._tables.lag[boot], 0.0)[None]
            self._release[:, boot] = np.where(free, at, self._release[:, boot])
        if self._boots[boot].sign_in_task == task:
            for index in np.flatnonzero(which):
                instant = float(self._up_at[index, boot, task]) + self._boots[boot].sign_in_lag
                only = np.zeros_like(which)
                only[index] = True
                self._sign_in(only, boot, instant)

    def _result(self, which: int, number: int, cpu: Floats, disk: Floats) -> Replayed:
        boot = self._boots[number]
        system = [task for task in boot.system_tasks if not self._gone[which, number, task]]
        up = max((float(self._up_at[which, number, task]) for task in system), default=0.0)
        signed_in = float(self._signed_in[which, number])
        begins = max(up, self._desktop(which, number, signed_in))
        seconds = np.arange(len(cpu), dtype=np.float64) * STEP_SECONDS
        nothing = np.zeros_like(seconds)
        samples = Samples(
            seconds=seconds,
            cpu_seconds=cpu,
            disk_read_bytes=nothing,
            disk_written_bytes=nothing,
            disk_busy_seconds=disk,
            memory_held_bytes=nothing,
            processes=nothing,
            own_cpu_seconds=nothing,
            own_memory_bytes=nothing,
            cores=boot.cores,
        )
        settled = find_settled(samples, begins, FINE_LEVELS)
        assert settled is not None
        marks = boot.marks(signed_in)
        return Replayed(
            machine_seconds(settled.seconds, marks), settled.censored, machine_seconds(up, marks)
        )

    def _desktop(self, which: int, number: int, signed_in: float) -> float:
        """When the desktop was shown, or else the user signed in, in a simulated boot."""
        boot = self._boots[number]
        if not np.isfinite(signed_in):
            return boot.desktop_shown or boot.signed_in
        task = boot.desktop_task
        if task is not None and self._up_at[which, number, task] > 0:
            return max(signed_in, float(self._up_at[which, number, task]))
        return signed_in + max(0.0, boot.desktop_shown - boot.signed_in)


def _summed(amounts: Floats, factors: Floats) -> Floats:
    """Sum over the tasks of amounts times factors."""
    return np.asarray(np.einsum("sbt,sbt->sb", amounts, factors))
