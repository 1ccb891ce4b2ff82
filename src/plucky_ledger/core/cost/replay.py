"""Replaying boots: tasks share the cores and the disk as they did, without some of them.

A fluid model in small steps. In its own time a task computes, moves data and waits in the
proportions its table has at that point; where cores or disk are wanted by more than there is,
computing or moving data takes longer for all by the same factor (processor sharing: Kleinrock,
"Queueing Systems", volume 2, 1976). All boots and all sets of missing entries go side by side.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from plucky_ledger.core.boots.marks import machine_seconds
from plucky_ledger.core.boots.samples import Floats, Samples
from plucky_ledger.core.boots.settle import DEFAULT_LEVELS, find_settled
from plucky_ledger.core.cost.contention import aloneness
from plucky_ledger.core.cost.replayed import Replayed
from plucky_ledger.core.cost.workload import STEP_SECONDS, Task, Workload

Bools = NDArray[np.bool_]
FINE_LEVELS = replace(DEFAULT_LEVELS, step_seconds=STEP_SECONDS)
"""A replay has no noise of its own: how long a spike lasts can be told more finely in it."""
MARGIN_SECONDS = 13.0
"""How long after the observed settled a replay goes on at first."""
MOST_AT_ONCE = 200_000
"""Tasks of all sets and boots that are replayed side by side."""
LEAST_SLOWNESS = 0.2
"""The drive's slowness where nobody wants it: the first to come is not held up."""
ROUNDS = 2
"""Rounds in which the shares of a step are found, starting from those of the step before."""


@dataclass(frozen=True, eq=False)
class Traced:
    """One boot replayed, in full. Seconds since the kernel started; shapes ``(tasks,)``."""

    begins: Floats
    """When each task began; infinite where it never did."""
    up_at: Floats
    """0 where a task never was up."""
    signed_in: float
    replayed: Replayed
    cpu: Floats
    """Shape ``(steps, tasks)``: CPU seconds in each step."""
    disk: Floats
    """The same for seconds of the drive."""


class Replay:
    """Boots of a round made ready to be replayed again and again.

    ``settled`` is when each of them did, in seconds since the kernel started.
    """

    def __init__(self, boots: Sequence[Workload], settled: Sequence[float]) -> None:
        self._boots = tuple(boots)
        self._until = max(
            min(boot.end, at + MARGIN_SECONDS) for boot, at in zip(boots, settled, strict=True)
        )
        most = max(len(boot.tasks) for boot in boots)
        rows = max(len(task.table.cpu_time) for boot in boots for task in boot.tasks)
        shape = (len(boots), most)
        self._rates = np.zeros((*shape, rows + 1, 4))
        """Per own second in each step: computing, CPU work, moving data, disk work."""
        self._length, self._up_after = np.zeros(shape), np.full(shape, np.inf)
        self._dearness, self._spared = np.ones(shape), np.zeros(shape)
        self._lag, self._at_sign_in = np.zeros(shape), np.zeros(shape, dtype=bool)
        self._before = np.zeros((len(boots), most, most), dtype=np.int16)
        """Who has to be up (second index) before whom (third)."""
        self._ids = np.full(shape, "", dtype=object)
        for number, boot in enumerate(boots):
            for index, task in enumerate(boot.tasks):
                self._take(number, index, task)

    def _take(self, boot: int, index: int, task: Task) -> None:
        table = task.table
        columns = (table.cpu_time, table.cpu_work, table.disk_time, table.disk_work)
        for number, column in enumerate(columns):
            self._rates[boot, index, : len(column) - 1, number] = np.diff(column) / STEP_SECONDS
        self._length[boot, index] = task.table.length
        self._dearness[boot, index] = task.dearness
        self._spared[boot, index] = task.spared
        self._up_after[boot, index] = task.up_after
        self._lag[boot, index] = task.lag
        self._at_sign_in[boot, index] = task.at_sign_in
        self._before[boot, list(task.after), index] = 1
        self._ids[boot, index] = task.entry_id

    def without(self, sets: Sequence[frozenset[str]]) -> list[list[Replayed]]:
        """Replay every boot once for each set of missing entries; a list of boots for each set."""
        # In parts, so that a thousand entries fit in memory.
        part = max(1, MOST_AT_ONCE // self._ids.size)
        return [
            boots
            for at in range(0, len(sets), part)
            for boots in self._part_without(sets[at : at + part])
        ]

    def traced(self, missing: frozenset[str]) -> Traced:
        """The first boot replayed in full without some entries."""
        run = _Run(self, self._gone([missing]), keeps=True)
        ((replayed, *_),) = run.run(self._until)
        return run.traced(replayed)

    def _gone(self, sets: Sequence[frozenset[str]]) -> Bools:
        return np.array(
            [[[name in missing for name in row] for row in self._ids] for missing in sets]
        )

    def _part_without(self, sets: Sequence[frozenset[str]]) -> list[list[Replayed]]:
        gone = self._gone(sets)
        replayed = _Run(self, gone).run(self._until)
        # Rarely something missing makes it later: then the rest of the recording is needed, too.
        end = max(boot.end for boot in self._boots)
        late = [i for i, boots in enumerate(replayed) if any(boot.censored for boot in boots)]
        if late and end > self._until + STEP_SECONDS:
            for index, again in zip(late, _Run(self, gone[late]).run(end), strict=True):
                replayed[index] = again
        return replayed


class _Run:
    """One go over all sets and boots; arrays have shape ``(sets, boots, tasks)``."""

    def __init__(self, replay: Replay, gone: Bools, keeps: bool = False) -> None:
        self._r = replay
        self._keeps = keeps
        self._each: list[tuple[Floats, Floats]] = []
        """What each task did in each step, where it is kept: CPU seconds, and disk time."""
        self._boots = replay._boots
        self._gone = gone
        sets, boots, tasks = gone.shape
        self._progress = np.zeros(gone.shape)
        self._speed = np.ones(gone.shape)
        self._up = gone.copy()
        self._up_at = np.zeros(gone.shape)
        waits = replay._before.sum(axis=1)[None].astype(np.int32)
        there = (~gone).astype(np.int32)
        # Who is not there is waited for by nobody.
        missing = np.einsum("sbj,bji->sbi", gone.astype(np.int32), replay._before)
        self._pending = (waits - missing) * there
        ordered = waits > 0
        anchored = ~ordered & ~replay._at_sign_in[None]
        self._release = np.where(anchored, np.maximum(replay._lag[None], 0.0), np.inf)
        self._release = np.broadcast_to(self._release, gone.shape).copy()
        # All it was ordered after is gone: it begins as soon as it is asked to.
        free = ordered & (self._pending == 0)
        asked = np.maximum(replay._lag[None], 0.0)
        self._release = np.where(
            free & ~replay._at_sign_in[None], self._asked()[None, :, None] + asked, self._release
        )
        self._free_at_sign_in = free & replay._at_sign_in[None]
        self._release[gone] = np.inf
        self._signed_in = np.full((sets, boots), np.inf)
        for number, boot in enumerate(self._boots):
            if boot.sign_in_task is None:
                self._sign_in(slice(None), number, boot.signed_in)
        self._nothing = np.zeros((sets, boots))
        self._begins = float(self._release.min())
        """Nothing happens before."""
        self._cpu_slow, self._disk_slow = np.ones((sets, boots)), np.ones((sets, boots))
        self._alone = np.zeros(gone.shape)
        self._cores = np.array([boot.cores for boot in self._boots], dtype=float)
        self._flat = replay._rates.reshape(-1, 4)
        rows = replay._rates.shape[2]
        self._first_row = (np.arange(boots * tasks) * float(rows)).reshape(1, boots, tasks)

    def _asked(self) -> Floats:
        """When the services of each boot began to be asked to start."""
        return np.array(
            [min((t.lag for t in boot.tasks if not t.after and not t.at_sign_in), default=0.0)
             for boot in self._boots]
        )  # fmt: skip

    def _sign_in(self, which: slice | Bools, boot: int, instant: float) -> None:
        self._signed_in[which, boot] = instant
        late = self._r._at_sign_in[boot] & (self._r._before[boot].sum(axis=0) == 0)
        late = late[None] | self._free_at_sign_in[:, boot]
        release = np.where(late, instant + np.maximum(self._r._lag[boot], 0.0)[None], np.inf)
        changed = np.minimum(self._release[:, boot], release)
        self._release[which, boot] = np.where(self._gone[:, boot], np.inf, changed)[which]

    def run(self, until: float) -> list[list[Replayed]]:
        """Let time go by up to an instant and see when each boot settled."""
        steps = int(np.ceil(until / STEP_SECONDS))
        cpu = np.zeros((steps + 1, *self._gone.shape[:2]))
        disk = np.zeros_like(cpu)
        for step in range(steps):
            used, moved = self._step(step * STEP_SECONDS)
            cpu[step + 1], disk[step + 1] = cpu[step] + used, disk[step] + moved
        return [
            [self._result(which, boot, cpu[:, which, boot], disk[:, which, boot])
             for boot in range(len(self._boots))]
            for which in range(self._gone.shape[0])
        ]  # fmt: skip

    def traced(self, replayed: Replayed) -> Traced:
        """Everything that was seen of the first set and boot."""
        cpu, disk = (np.array([step[kind] for step in self._each]) for kind in (0, 1))
        return Traced(
            self._release[0, 0].copy(),
            np.where(self._gone[0, 0], 0.0, self._up_at[0, 0]),
            float(self._signed_in[0, 0]),
            replayed,
            cpu,
            disk,
        )

    def _step(self, now: float) -> tuple[Floats, Floats]:
        """Let one step go by; CPU seconds and disk time used in it by each set and boot."""
        r = self._r
        wide = STEP_SECONDS
        if now + wide <= self._begins:
            if self._keeps:
                idle = np.zeros(self._gone.shape[2])
                self._each.append((idle, idle))
            return self._nothing, self._nothing
        active = (self._release < now + wide) & (self._progress < r._length[None])
        # A task released within the step has only the rest of it.
        width = np.where(active, np.minimum(now + wide - self._release, wide), 0.0)
        middle = self._progress + 0.5 * self._speed * width
        rows = self._first_row + np.minimum(middle, r._length) * (1 / STEP_SECONDS)
        rates = self._flat.take(rows.astype(np.int64), axis=0)
        cpu_time, disk_time = rates[..., 0], rates[..., 2]
        price = 1 - r._spared * self._alone
        cpu_work, disk_work = rates[..., 1], rates[..., 3] * price
        waiting = 1 - cpu_time - disk_time
        # The drive serves all in turn, some bytes each: who has dear data is held up less by
        # others than who has cheap data, and nobody is quicker than alone.
        alone, in_turn = disk_time * price, disk_time / r._dearness
        width_share = width * (1 / wide)
        cpu_wanted, disk_wanted = cpu_work * width_share, disk_work * width_share
        pace = waiting, cpu_time, alone, in_turn
        self._speed = speed = self._shared(pace, cpu_wanted, disk_wanted)
        done = np.minimum(self._progress + speed * width, r._length)
        moved = done - self._progress
        turns = rates[..., 3] * moved / r._dearness
        self._alone = aloneness(turns / np.maximum(turns.sum(axis=-1, keepdims=True), 1e-12))
        used = _summed(cpu_work, moved), _summed(disk_work, moved)
        if self._keeps:
            self._each.append(((cpu_work * moved)[0, 0], (disk_work * moved)[0, 0]))
        self._note_up(now, width, speed, done)
        self._progress = done
        return used

    def _shared(
        self, pace: tuple[Floats, Floats, Floats, Floats], cpu_wanted: Floats, disk_wanted: Floats
    ) -> Floats:
        """How fast each task goes once cores and drive are shared; ``pace`` as in ``_speeds``."""
        for _ in range(ROUNDS):
            speed = self._speeds(*pace)
            cpu, disk = _summed(cpu_wanted, speed), _summed(disk_wanted, speed)
            cpu_slow = np.maximum(1.0, self._cpu_slow * cpu / self._cores)
            disk_slow = np.maximum(LEAST_SLOWNESS, self._disk_slow * disk)
            found = (cpu_slow == self._cpu_slow).all() and (disk_slow == self._disk_slow).all()
            if found:  # nobody is held up: more rounds would find the same
                return speed
            self._cpu_slow, self._disk_slow = cpu_slow, disk_slow
        return self._speeds(*pace)

    def _speeds(self, waiting: Floats, computing: Floats, alone: Floats, in_turn: Floats) -> Floats:
        """How fast each task's own time goes by, from its shares of waiting, computing and moving
        data: the last as it is alone with the drive, and as it is served in turn.
        """
        moving = np.maximum(alone, in_turn * self._disk_slow[..., None])
        return 1 / (waiting + computing * self._cpu_slow[..., None] + moving)

    def _note_up(self, now: float, width: Floats, speed: Floats, done: Floats) -> None:
        newly = ~self._up & (done >= self._r._up_after[None]) & (self._release < np.inf)
        if not newly.any():
            return
        begin = np.maximum(now, np.where(np.isfinite(self._release), self._release, now))
        late = (self._r._up_after[None] - self._progress) / np.maximum(speed, 1e-9)
        self._up_at = np.where(newly, begin + np.clip(late, 0.0, width), self._up_at)
        self._up |= newly
        for boot, task in zip(*np.nonzero(newly.any(axis=0)), strict=True):
            which = newly[:, boot, task]
            self._let_go(which, int(boot), int(task))

    def _let_go(self, which: Bools, boot: int, task: int) -> None:
        """A task is up: whoever waited for it alone may begin, and the sign-in may be shown."""
        waiting = self._r._before[boot, task] > 0
        if waiting.any():
            self._pending[which, boot] -= waiting.astype(np.int32)
            free = which[:, None] & waiting[None] & (self._pending[:, boot] == 0)
            free &= ~self._gone[:, boot]
            at = self._up_at[:, boot, task][:, None] + np.maximum(self._r._lag[boot], 0.0)[None]
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
        samples = Samples(seconds, cpu, nothing, nothing, disk, nothing, nothing, nothing, nothing,
                          cores=boot.cores)  # fmt: skip
        settled = find_settled(samples, begins, FINE_LEVELS)
        assert settled is not None
        marks = boot.marks(signed_in)
        return Replayed(
            machine_seconds(settled.seconds, marks), settled.censored, machine_seconds(up, marks)
        )

    def _desktop(self, which: int, number: int, signed_in: float) -> float:
        """When the desktop was shown, or somebody signed in, in a replay."""
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
