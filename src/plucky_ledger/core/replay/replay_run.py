"""One simulation run: time advances in small steps, for all sets of missing entries and all boots
at once.

A boot without one set is a *replica*; a task in it is a *part*. Most parts ask for next to nothing
at a time: those are *light* and advanced by a whole window of steps at once, and only the *heavy*
ones step by step (multirate integration: Gear and Wells, BIT 24, 1984). What a part does never
depends on which other replicas are simulated beside its own.
"""

import numpy as np

from plucky_ledger.core.boots.samples import Bools, Floats, Indices
from plucky_ledger.core.replay.drive import exclusivity
from plucky_ledger.core.replay.parts import ByReplica, Heavy, Pace, pace_of
from plucky_ledger.core.replay.releases import Releases
from plucky_ledger.core.replay.replay_trace import ReplayTrace, State
from plucky_ledger.core.replay.replayed import Replayed
from plucky_ledger.core.replay.replayed_boot import ReplicaMarks, replayed_boot
from plucky_ledger.core.replay.task_tables import WINDOWS, Singles, TaskTables
from plucky_ledger.core.replay.workload import STEP_SECONDS

LEAST_SLOWDOWNS = np.array([[1.0], [0.2]], dtype=np.float32)
"""Slowdown of idle cores and of an idle drive: the first task to use that is not slowed down."""
CHANGING = ("_progress", "_speed", "_exclusivity", "_up", "_slow", "_turns")
"""Attributes that change during a run: what a kept state consists of, beside the releases'."""
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
        self._releases = Releases(tables, gone)
        self._progress, self._exclusivity, self._speed = np.zeros((3, gone.size), np.float32)
        self._speed += 1
        self._length = self._of_each_part(tables.length)
        self._up_after = self._of_each_part(tables.up_after)
        self._seek_discount = self._of_each_part(tables.seek_discount)
        self._turns_per_work = self._of_each_part(1 / tables.relative_io_cost)
        self._first_row = np.tile(np.arange(boots * tasks) * tables.rates.shape[2], sets)
        self._up = (gone | np.isinf(tables.up_after)).ravel()
        self._replicas = sets * boots
        self._bounds = np.arange(self._replicas + 1) * tasks
        """First part of each replica, and one behind the last."""
        self._slow = np.ones((2, self._replicas), np.float32)
        """Slowdowns of cores and drive."""
        self._turns = np.zeros(self._replicas, np.float32)
        """What the drive did in its last step, in turns a second."""
        self._capacity = np.ones((2, self._replicas), np.float32)
        """CPU seconds and disk seconds to be had in a second."""
        self._capacity[0] = np.tile([boot.capacity for boot in self._boots], sets)

    def _of_each_part(self, of_tasks: Floats) -> Singles:
        return np.tile(of_tasks.ravel().astype(np.float32), self._shape[0])

    def run(self, until: float, whole: ReplayTrace | None = None) -> list[list[Replayed]]:
        """Advance to an instant and find when each boot settled.

        ``whole`` is the trace of the same boot with nothing missing, which the run is continued
        from where possible.
        """
        steps = int(np.ceil(until / STEP_SECONDS))
        self._used = np.zeros((2, steps, self._replicas), np.float32)
        """CPU seconds and disk seconds of each replica in each step."""
        self._each = np.zeros((2, steps if self._keeps else 0, self._shape[2]), np.float32)
        """The same of each task of the only replica, where a trace is kept."""
        begin = 0
        if whole is not None:
            begin = self._go_on_from(whole)
            self._each[:, :begin] = whole.cpu[:begin], whole.disk[:begin]
            self._used[:, :begin, 0] = whole.used[:, :begin]
        for step in range(begin, steps, WINDOWS[0]):
            if self._keeps and whole is None:
                self._states.append(self._state(step))
            self._advance(range(step, min(step + WINDOWS[0], steps)))
        return self._replayed()

    def traced(self, replayed: Replayed) -> ReplayTrace:
        """The trace of the only replica."""
        return ReplayTrace(
            begins=self._releases.at.copy(),
            up_at=self._releases.up_at.copy(),
            signed_in=float(self._releases.signed_in[0, 0]),
            replayed=replayed,
            cpu=self._each[0].astype(np.float64),
            disk=self._each[1].astype(np.float64),
            used=self._used[:, :, 0],
            states=tuple(self._states),
        )

    def _state(self, step: int) -> State:
        changing = {name: getattr(self, name).copy() for name in CHANGING}
        return State(step, changing, self._releases.state())

    def _go_on_from(self, whole: ReplayTrace) -> int:
        """Restore the last state of ``whole`` that no missing entry has influenced yet; returns its
        step.
        """
        freed = self._releases.freed_in(whole)
        instants = [*whole.begins[self._gone], *freed.values()]
        limit = min(instants, default=np.inf) - STEP_SECONDS
        states = [state for state in whole.states if state.step * STEP_SECONDS <= limit]
        if not states:
            return 0
        state = states[-1]
        for name, array in state.arrays.items():
            setattr(self, name, array.copy())
        self._up |= self._gone
        self._releases.go_on_from(state.releases, freed)
        return state.step

    def _advance(self, steps: range) -> None:
        """Advance all replicas by a long window of steps."""
        at_work = (self._releases.at < steps.stop * STEP_SECONDS) & (self._progress < self._length)
        begun = np.flatnonzero(at_work)
        begun, long = self._light_of(begun, steps, WINDOWS[0])
        for at in range(steps.start, steps.stop, WINDOWS[1]):
            short = range(at, min(at + WINDOWS[1], steps.stop))
            heavy, light = self._light_of(begun, short, WINDOWS[1])
            freed = self._advance_heavy(self._heavy(heavy), short, long + light)
            begun = _in_order(begun, freed)

    def _light_of(self, begun: Indices, steps: range, window: int) -> tuple[Indices, Singles]:
        """Advance those of some parts that stay light for a window; returns the others that are at
        work in these steps, and what the light ones use (as ``_advance_light``).
        """
        now, end = steps.start * STEP_SECONDS, steps.stop * STEP_SECONDS
        progress, release = self._progress.take(begun), self._releases.at.take(begun)
        row = self._row(self._first_row.take(begun), progress)
        left = (release < end) & (progress < self._length.take(begun))
        light = (
            left
            & (self._tables.light_for.take(row) > window)
            & self._up.take(begun)
            & (release <= now)
        )
        used = self._advance_light(begun[light], row[light], steps, window)
        return begun[left & ~light], used

    def _advance_heavy(self, heavy: Heavy, steps: range, beside: Singles) -> Indices:
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
                soon = freed[self._releases.at[freed] < end]
                heavy = self._heavy(_in_order(heavy.which, soon))
        self._put_back(heavy)
        return np.concatenate(released)

    @staticmethod
    def _row(first: Indices, progress: Singles) -> Indices:
        """Rows of the tables that parts are at."""
        return first + (progress * (1 / STEP_SECONDS)).astype(np.intp)

    def _heavy(self, which: Indices) -> Heavy:
        return Heavy(
            which=which,
            by_replica=ByReplica.of(which, self._bounds),
            first_row=self._first_row.take(which),
            length=self._length.take(which),
            up_after=np.where(self._up.take(which), np.inf, self._up_after.take(which)),
            turns_per_work=self._turns_per_work.take(which),
            seek_discount=self._seek_discount.take(which),
            release=self._releases.at.take(which).astype(np.float32),
            progress=self._progress.take(which),
            speed=self._speed.take(which),
            exclusivity=self._exclusivity.take(which),
        )

    def _put_back(self, heavy: Heavy) -> None:
        which = heavy.which
        self._progress[which], self._speed[which] = heavy.progress, heavy.speed
        self._exclusivity[which] = heavy.exclusivity

    def _advance_light(self, which: Indices, row: Indices, steps: range, window: int) -> Singles:
        """Advance light parts by a window, at the slowdowns that it begins with; returns what those
        of each replica use in a second: CPU, drive and turns, shape ``(3, replicas)``.
        """
        seconds = len(steps) * STEP_SECONDS
        by_replica = ByReplica.of(which, self._bounds)
        progress, length = self._progress.take(which), self._length.take(which)
        pace = pace_of(
            self._tables.window_rates[window].reshape(-1, 4).take(row, axis=0),
            self._seek_discount.take(which) * self._exclusivity.take(which),
            self._turns_per_work.take(which),
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

    def _step(self, step: int, heavy: Heavy, beside: Singles) -> Indices:
        """Advance the heavy parts by one step; returns the parts that were released in it."""
        now, wide = step * STEP_SECONDS, STEP_SECONDS
        # A task released within the step takes part in the rest of it.
        width = np.minimum(np.maximum(now + wide - heavy.release, 0.0), wide)
        width *= heavy.progress < heavy.length
        middle = np.minimum(heavy.progress + 0.5 * heavy.speed * width, heavy.length)
        pace = pace_of(
            self._tables.rates.reshape(-1, 4).take(self._row(heavy.first_row, middle), axis=0),
            heavy.seek_discount * heavy.exclusivity,
            heavy.turns_per_work,
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

    def _shared(
        self, by_replica: ByReplica, pace: Pace, width: Singles, beside: Singles
    ) -> Singles:
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

    def _slow_down(self, asked: Singles) -> bool:
        """Find the slowdowns of cores and drive in each replica by what is asked of them in a
        second, shape ``(2, replicas)``; returns whether any changed.
        """
        before = self._slow
        self._slow = np.maximum(LEAST_SLOWDOWNS, before * asked / self._capacity)
        return bool((self._slow != before).any())

    def _note_up(self, now: float, heavy: Heavy, width: Singles, done: Singles) -> Indices:
        """Note which parts are up at the end of a step; returns those that waited for them."""
        newly = np.flatnonzero(done >= heavy.up_after)
        if not newly.size:
            return newly
        which = heavy.which[newly]
        late = heavy.up_after[newly] - heavy.progress[newly]
        late /= np.maximum(heavy.speed[newly], 1e-9)
        self._up[which], heavy.up_after[newly] = True, np.inf
        begin = np.maximum(now, heavy.release[newly])
        up_at = begin + np.clip(late, 0.0, width[newly])
        return self._releases.note_up(which, up_at)

    def _replayed(self) -> list[list[Replayed]]:
        """Every boot of every set as it went."""
        sets, boots, tasks = self._shape
        shares = self._shares()
        up_at, signed_in = self._releases.up_at.reshape(-1, tasks), self._releases.signed_in
        return [
            [
                replayed_boot(
                    boot,
                    ReplicaMarks(up_at[number], float(signed_in.flat[number])),
                    shares[number],
                )
                for boot, number in zip(self._boots, range(first, first + boots), strict=True)
            ]
            for first in range(0, sets * boots, boots)
        ]

    def _shares(self) -> Floats:
        """Shares (0 to 1) of the cores and of the drive's time that each replica used; shape
        ``(replicas, 2, steps)``.
        """
        most = np.ones((len(self._boots), 2, 1))
        most[:, 0, 0] = [boot.cores for boot in self._boots]
        used = np.ascontiguousarray(self._used.transpose(2, 0, 1), dtype=np.float64)
        used /= np.tile(most * STEP_SECONDS, (self._shape[0], 1, 1))
        return np.minimum(used, 1.0, out=used)


def _in_order(parts: Indices, more: Indices) -> Indices:
    """Parts with some more, in the order of their replicas."""
    return np.sort(np.concatenate((parts, more)), kind="stable") if more.size else parts
