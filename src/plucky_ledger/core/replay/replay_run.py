"""One simulation run: time advances in small steps, for all sets of missing entries and all boots
at once.

A boot without one set is a *replica*; a task in it is a *part*. Most parts ask for next to nothing
at a time: those are *light* and advanced by a whole window of steps at once, and only the *heavy*
ones step by step (multirate integration: Gear and Wells, BIT 24, 1984). What a part does never
depends on which other replicas are simulated beside its own.
"""

import numpy as np

from plucky_ledger.core.boots.samples import Floats
from plucky_ledger.core.replay.drive import exclusivity
from plucky_ledger.core.replay.parts import ByReplica, Heavy, Pace, pace_of
from plucky_ledger.core.replay.replay_trace import ReplayTrace, State
from plucky_ledger.core.replay.replayed import Replayed
from plucky_ledger.core.replay.replayed_boot import ReplicaMarks, replayed_boot
from plucky_ledger.core.replay.task_tables import WINDOWS, Bools, Indices, TaskTables
from plucky_ledger.core.replay.workload import STEP_SECONDS

LEAST_SLOWDOWNS = np.array([[1.0], [0.2]])
"""Slowdown of idle cores and of an idle drive: the first task to use that is not slowed down."""
CHANGING = (
    "_progress",
    "_speed",
    "_exclusivity",
    "_up",
    "_up_at",
    "_pending",
    "_release",
    "_signed_in",
    "_slow",
    "_turns",
)
"""Attributes that change during a run: what a kept state consists of."""
ROUNDS = 2
"""Fixed-point iterations in which the shares of a step are found, starting from those of the step
before."""


class ReplayRun:
    """One run over all sets of missing entries and all boots.

    Parts are numbered through over sets, boots and tasks, replicas over sets and boots.
    """

    def __init__(self, tables: TaskTables, gone: Bools, keeps: bool = False) -> None:
        self._tables = tables
        self._keeps = keeps
        self._states: list[State] = []
        self._boots = tables.boots
        sets, boots, tasks = self._shape = gone.shape
        self._gone = gone.ravel()
        self._progress, self._exclusivity = np.zeros(gone.size), np.zeros(gone.size)
        self._length = np.tile(tables.length.ravel(), sets)
        self._speed = np.ones(gone.size)
        self._up = (gone | np.isinf(tables.up_after)).ravel()
        self._up_at = np.zeros(gone.size)
        waits = tables.requires.sum(axis=1)[None]
        # Tasks do not wait for tasks that are missing.
        missing = np.matmul(gone.swapaxes(0, 1).astype(np.float32), tables.requires)
        self._missing = missing.swapaxes(0, 1).astype(np.int32).ravel()
        self._pending = ((waits - missing.swapaxes(0, 1)) * ~gone).astype(np.int32).ravel()
        ordered = waits > 0
        lag = self._lag = np.maximum(tables.lag, 0.0)
        anchored = ~ordered & ~tables.at_sign_in[None]
        # All its predecessors are missing: it begins as soon as it is asked to.
        free = ordered & (self._pending.reshape(gone.shape) == 0)
        self._release = np.where(
            free & ~tables.at_sign_in[None],
            (tables.asked[:, None] + lag)[None],
            np.where(anchored, lag[None], np.inf),
        ).ravel()
        self._release[self._gone] = np.inf
        self._released_by_sign_in = tables.at_sign_in[None] & (~ordered | free) & ~gone
        self._signed_in = np.full((sets, boots), np.inf)
        for number, boot in enumerate(self._boots):
            if boot.sign_in_task is None:
                self._sign_in(np.arange(sets), number, np.full(sets, boot.signed_in))
        self._replicas = sets * boots
        self._slow = np.ones((2, self._replicas))
        """Slowdowns of cores and drive."""
        self._turns = np.zeros(self._replicas)
        """What the drive did in its last step, in turns a second."""
        self._capacity = np.ones((2, self._replicas))
        """CPU seconds and disk seconds to be had in a second."""
        self._capacity[0] = np.tile([boot.capacity for boot in self._boots], sets)
        self._leads = np.zeros(boots * tasks, dtype=bool)
        """Tasks that something waits for."""
        self._leads[list(tables.successors)] = True
        for number, boot in enumerate(self._boots):
            if boot.sign_in_task is not None:
                self._leads[number * tasks + boot.sign_in_task] = True

    def run(self, until: float, whole: ReplayTrace | None = None) -> list[list[Replayed]]:
        """Advance to an instant and find when each boot settled.

        ``whole`` is the trace of the same boot with nothing missing, which the run is continued
        from where possible.
        """
        steps = int(np.ceil(until / STEP_SECONDS))
        self._used = np.zeros((2, steps, self._replicas))
        """CPU seconds and disk seconds of each replica in each step."""
        self._each = np.zeros((2, steps if self._keeps else 0, self._shape[2]))
        """The same of each task of the only replica, where a trace is kept."""
        begin = 0
        if whole is not None:
            begin = self._go_on_from(whole)
            self._each[:, :begin] = whole.cpu[:begin], whole.disk[:begin]
            self._used[:, :begin, 0] = self._each[:, :begin].sum(axis=2)
        for step in range(begin, steps, WINDOWS[0]):
            if self._keeps and whole is None:
                self._states.append(self._state(step))
            self._advance(range(step, min(step + WINDOWS[0], steps)))
        return self._replayed()

    def traced(self, replayed: Replayed) -> ReplayTrace:
        """The trace of the only replica."""
        return ReplayTrace(
            begins=self._release.copy(),
            up_at=np.where(self._gone, 0.0, self._up_at),
            signed_in=float(self._signed_in[0, 0]),
            replayed=replayed,
            cpu=self._each[0],
            disk=self._each[1],
            states=tuple(self._states),
        )

    def _state(self, step: int) -> State:
        return State(step, {name: getattr(self, name).copy() for name in CHANGING})

    def _go_on_from(self, whole: ReplayTrace) -> int:
        """Restore the last state of ``whole`` that no missing entry has influenced yet; returns its
        step.
        """
        freed = self._freed(whole)
        instants = [*whole.begins[self._gone], *freed.values()]
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
            if self._pending[task] == 0 and not late:
                self._release[task] = instant
        self._release[self._gone] = np.inf
        return state.step

    def _freed(self, whole: ReplayTrace) -> dict[int, float]:
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

    def _advance(self, steps: range) -> None:
        """Advance all replicas by a long window of steps."""
        at_work = (self._release < steps.stop * STEP_SECONDS) & (self._progress < self._length)
        begun = np.flatnonzero(at_work)
        begun, long = self._light_of(begun, steps, WINDOWS[0])
        for at in range(steps.start, steps.stop, WINDOWS[1]):
            short = range(at, min(at + WINDOWS[1], steps.stop))
            heavy, light = self._light_of(begun, short, WINDOWS[1])
            freed = self._advance_heavy(self._heavy(heavy), short, long + light)
            begun = _in_order(begun, freed)

    def _light_of(self, begun: Indices, steps: range, window: int) -> tuple[Indices, Floats]:
        """Advance those of some parts that stay light for a window; returns the others that are at
        work in these steps, and what the light ones use (as ``_advance_light``).
        """
        now, end = steps.start * STEP_SECONDS, steps.stop * STEP_SECONDS
        task, progress = begun % self._leads.size, self._progress.take(begun)
        release = self._release.take(begun)
        row = self._first_row(task) + (progress * (1 / STEP_SECONDS)).astype(np.intp)
        left = (release < end) & (progress < self._length.take(begun))
        light = (
            left
            & (self._tables.light_for.take(row) > window)
            & self._up.take(begun)
            & (release <= now)
        )
        used = self._advance_light(begun[light], row[light], steps, window)
        return begun[left & ~light], used

    def _advance_heavy(self, heavy: Heavy, steps: range, beside: Floats) -> Indices:
        """Advance the heavy parts by a short window, step by step, with what others use beside them
        (as ``_advance_light``); returns the parts released in it.
        """
        end = steps.stop * STEP_SECONDS
        released = [heavy.which[:0]]
        for step in steps:
            if not heavy.which.size:
                self._used[:, step : steps.stop] = beside[:2, None] * STEP_SECONDS
                self._slow_down(beside[:2])
                self._turns = beside[2]
                break
            freed = self._step(step, heavy, beside)
            if freed.size:
                released.append(freed)
                self._put_back(heavy)
                soon = freed[self._release[freed] < end]
                heavy = self._heavy(_in_order(heavy.which, soon))
        self._put_back(heavy)
        return np.concatenate(released)

    def _first_row(self, task: Indices) -> Indices:
        return np.asarray(task * self._tables.rates.shape[2])

    def _heavy(self, which: Indices) -> Heavy:
        task, tables = which % self._leads.size, self._tables
        return Heavy(
            which=which,
            by_replica=self._by_replica(which),
            first_row=self._first_row(task).astype(float),
            length=self._length.take(which),
            up_after=tables.up_after.take(task),
            relative_io_cost=tables.relative_io_cost.take(task),
            seek_discount=tables.seek_discount.take(task),
            release=self._release[which],
            up=self._up[which],
            progress=self._progress[which],
            speed=self._speed[which],
            exclusivity=self._exclusivity[which],
        )

    def _put_back(self, heavy: Heavy) -> None:
        which = heavy.which
        self._progress[which], self._speed[which] = heavy.progress, heavy.speed
        self._exclusivity[which], self._up[which] = heavy.exclusivity, heavy.up

    def _advance_light(self, which: Indices, row: Indices, steps: range, window: int) -> Floats:
        """Advance light parts by a window, at the slowdowns that it begins with; returns what those
        of each replica use in a second: CPU, drive and turns, shape ``(3, replicas)``.
        """
        seconds = len(steps) * STEP_SECONDS
        task, by_replica = which % self._leads.size, self._by_replica(which)
        progress, length = self._progress.take(which), self._length.take(which)
        pace = pace_of(
            self._tables.window_rates[window].reshape(-1, 4).take(row, axis=0),
            self._tables.seek_discount.take(task) * self._exclusivity.take(which),
            self._tables.relative_io_cost.take(task),
        )
        speed = pace.speed(by_replica.spread(self._slow))
        moved = np.minimum(speed * seconds, length - progress)
        self._progress[which], self._speed[which] = progress + moved, speed
        used = pace.work * (moved / seconds)
        share = used[2] / np.maximum(by_replica.spread(self._turns), 1e-12)
        self._exclusivity[which] = exclusivity(np.minimum(share, 1.0))
        if self._keeps:
            self._each[:, steps.start : steps.stop, which] = used[:2, None] * STEP_SECONDS
        return by_replica.summed(used)

    def _by_replica(self, which: Indices) -> ByReplica:
        return ByReplica(np.bincount(which // self._shape[2], minlength=self._replicas))

    def _step(self, step: int, heavy: Heavy, beside: Floats) -> Indices:
        """Advance the heavy parts by one step; returns the parts that were released in it."""
        now, wide = step * STEP_SECONDS, STEP_SECONDS
        active = (heavy.release < now + wide) & (heavy.progress < heavy.length)
        # A task released within the step takes part in the rest of it.
        width = np.where(active, np.minimum(now + wide - heavy.release, wide), 0.0)
        middle = np.minimum(heavy.progress + 0.5 * heavy.speed * width, heavy.length)
        row = (heavy.first_row + middle * (1 / STEP_SECONDS)).astype(np.intp)
        pace = pace_of(
            self._tables.rates.reshape(-1, 4).take(row, axis=0),
            heavy.seek_discount * heavy.exclusivity,
            heavy.relative_io_cost,
        )
        heavy.speed = self._shared(heavy.by_replica, pace, width, beside[:2])
        done = np.minimum(heavy.progress + heavy.speed * width, heavy.length)
        used = pace.work * (done - heavy.progress)
        all_used = heavy.by_replica.summed(used) + beside * wide
        share = used[2] / np.maximum(heavy.by_replica.spread(all_used[2]), 1e-12)
        heavy.exclusivity = exclusivity(share)
        self._turns = all_used[2] / wide
        self._used[:, step] = all_used[:2]
        if self._keeps:
            self._each[:, step, heavy.which] = used[:2]
        freed = self._note_up(now, heavy, width, done)
        heavy.progress = done
        return freed

    def _shared(self, by_replica: ByReplica, pace: Pace, width: Floats, beside: Floats) -> Floats:
        """Speed of each part (own seconds per second, 0 to 1) with cores and drive shared.

        How much a task asks of cores and drive depends on its speed and the other way round: a
        fixed point, found by iteration from the speeds of the step before.
        """
        wanted = pace.work[:2] * (width * (1 / STEP_SECONDS))
        for _ in range(ROUNDS):
            speed = pace.speed(by_replica.spread(self._slow))
            if not self._slow_down(by_replica.summed(wanted * speed) + beside):
                return speed  # more iterations would find the same
        return pace.speed(by_replica.spread(self._slow))

    def _slow_down(self, asked: Floats) -> bool:
        """Find the slowdowns of cores and drive in each replica by what is asked of them in a
        second, shape ``(2, replicas)``; returns whether any changed.
        """
        before = self._slow
        self._slow = np.maximum(LEAST_SLOWDOWNS, before * asked / self._capacity)
        return bool((self._slow != before).any())

    def _note_up(self, now: float, heavy: Heavy, width: Floats, done: Floats) -> Indices:
        """Note which parts are up at the end of a step; returns those that waited for them."""
        newly = np.flatnonzero(~heavy.up & (done >= heavy.up_after))
        if not newly.size:
            return newly
        heavy.up[newly] = True
        which = heavy.which[newly]
        late = (heavy.up_after - heavy.progress)[newly] / np.maximum(heavy.speed[newly], 1e-9)
        begin = np.maximum(now, heavy.release[newly])
        self._up_at[which] = begin + np.clip(late, 0.0, width[newly])
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
        up_at = self._up_at[sets * tasks + task]
        freed = sets[:0]
        if task in self._tables.successors:
            after = self._tables.successors[task]
            waiting = sets[:, None] * tasks + after[None]
            self._pending[waiting] -= 1
            free = (self._pending[waiting] == 0) & ~self._gone[waiting]
            freed = waiting[free]
            self._release[freed] = (up_at[:, None] + self._lag.ravel()[after][None])[free]
        if self._boots[boot].sign_in_task == task % self._shape[2]:
            shown = up_at + self._boots[boot].sign_in_lag
            freed = np.concatenate((freed, self._sign_in(sets, boot, shown)))
        return freed

    def _sign_in(self, sets: Indices, boot: int, instants: Floats) -> Indices:
        """The user signs in to a boot in some sets; returns the parts that this releases."""
        self._signed_in[sets, boot] = instants
        late = self._released_by_sign_in[sets, boot]
        at = np.where(late, instants[:, None] + self._lag[boot][None], np.inf)
        parts = (sets[:, None] * len(self._boots) + boot) * self._shape[2] + np.arange(
            self._shape[2]
        )
        self._release[parts] = np.minimum(self._release[parts], at)
        return np.asarray(parts[late])

    def _replayed(self) -> list[list[Replayed]]:
        """Every boot of every set as it went."""
        sets, boots, tasks = self._shape
        used = np.ascontiguousarray(self._used.transpose(2, 0, 1))
        up_at = np.where(self._gone, 0.0, self._up_at).reshape(-1, tasks)
        return [
            [
                replayed_boot(
                    boot,
                    ReplicaMarks(up_at[number], float(self._signed_in.flat[number])),
                    used[number],
                )
                for boot, number in zip(self._boots, range(first, first + boots), strict=True)
            ]
            for first in range(0, sets * boots, boots)
        ]


def _in_order(parts: Indices, more: Indices) -> Indices:
    """Parts with some more, in the order of their replicas."""
    return np.sort(np.concatenate((parts, more)), kind="stable") if more.size else parts
