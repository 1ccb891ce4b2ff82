"""The simulated hardware: cores with a quantum, one disk with a page cache, memory, processes."""

import heapq
import math
from collections import Counter, deque
from collections.abc import Callable
from dataclasses import dataclass, field
from random import Random

from plucky_ledger.standin.held_up import HeldUp
from plucky_ledger.standin.program import (
    Action,
    Await,
    Compute,
    Hold,
    Program,
    Read,
    Sleep,
    Spawn,
    Stay,
    Tell,
    Up,
    Write,
)

QUANTUM_SECONDS = 0.02
SWITCH_SECONDS = 0.0001
"""Cost of changing from one task to another on a core."""
PIECE_MEGABYTES = 0.5
"""How much one request reads before the disk turns to the next waiting one."""
SCATTERED_SEEKS = 3
"""Seeks per piece of a file that lies scattered."""
HELD_AT_MOST = 0.85
"""Share of the memory that programs can hold; the rest is the system's."""
SWAPPED = "swapped"
"""What was swapped out is read back under such a name."""
SPREAD = 0.025
"""Standard deviation of the logarithm of each action's size, from run to run."""


@dataclass(frozen=True, kw_only=True)
class Hardware:
    """What the stand-in PC is built of."""

    cores: int = 4
    core_speed: float = 1.0
    """Relative to the reference core."""
    disk_megabytes_per_second: float = 90.0
    seek_seconds: float = 0.009
    memory_megabytes: float = 4096.0
    rotating: bool = True
    disk_bytes: int = 500_107_862_016
    disk_free_bytes: int = 61_000_000_000


@dataclass(kw_only=True, eq=False)
class Process:
    """One running program. Cumulative figures since it began."""

    pid: int
    parent: int
    program: Program
    group: str
    started: float
    on_up: Callable[[], None]
    on_end: Callable[[], None]
    rng: Random
    """Its own chance: another program that is not there changes nothing in it."""
    todo: deque[Action] = field(default_factory=deque)
    cpu_seconds: float = 0.0
    megabytes_read: float = 0.0
    megabytes_written: float = 0.0
    megabytes_held: float = 0.0
    queued_seconds: float = 0.0
    """How long its threads waited for a core, together."""
    children_cpu_seconds: float = 0.0
    """Of its children that have ended, and of theirs."""
    children_megabytes_read: float = 0.0
    ended: float | None = None


@dataclass(kw_only=True, eq=False)
class _Share:
    """Work of one process waiting for, or using, a core or the disk."""

    process: Process
    remaining: float
    done: Callable[[], None]
    scattered: bool = False
    writing: bool = False
    ready_at: float = 0.0
    """Since when it has been waiting for a core."""
    at_rest: bool = False
    """The little a program does that only runs on."""
    asked_at: float = 0.0
    """When the drive was asked for its next piece."""
    for_memory: bool = False
    """There would be no need of it if there were memory enough."""


def _nothing() -> None:
    """For processes nobody waits for."""


class Machine:
    """A discrete-event simulation; ``run_until`` lets time go on."""

    def __init__(self, hardware: Hardware, rng: Random) -> None:
        self.hardware = hardware
        self.now = 0.0
        self.processes: dict[int, Process] = {}
        self.ended: list[Process] = []
        self.disk_busy_seconds = 0.0
        self.cpu_seconds = 0.0
        self.megabytes_read = 0.0
        self.megabytes_written = 0.0
        self.megabytes_reread = 0.0
        """Read again, because there was no memory left to keep it in."""
        self.megabytes_swapped_out = 0.0
        self.disk_requests = 0
        self.disk_answer_seconds = 0.0
        self.startup_work: list[list[float]] = []
        """Stretches in which something other than a program at rest was at work: start, end."""
        self._seed = rng.getrandbits(64)
        self._pid_steps = rng
        self._started: Counter[str] = Counter()
        self._agenda: list[tuple[float, int, Callable[[], None]]] = []
        self._sequence = 0
        self._next_pid = 1
        self._ready: deque[_Share] = deque()
        self._idle_cores = hardware.cores
        self._requests: deque[_Share] = deque()
        self._disk_idle = True
        self._disk_at: Process | None = None
        self._cache: dict[str, float] = {}
        self._read_before: dict[str, float] = {}
        self._happened: dict[str, float] = {}
        self._waiting: dict[str, list[Callable[[], None]]] = {}
        self.cores_wanted = HeldUp()
        self.drive_wanted = HeldUp()
        self.waited_for = HeldUp()
        """By the whole machine, for each of "cpu", "io" and "memory"."""

    def run_until(self, instant: float) -> None:
        """Let everything happen that happens up to ``instant`` (seconds)."""
        while self._agenda and self._agenda[0][0] <= instant:
            self.now, _, happen = heapq.heappop(self._agenda)
            happen()
        self.now = instant

    def at(self, instant: float, happen: Callable[[], None]) -> None:
        """Put something on the agenda."""
        self._sequence += 1
        heapq.heappush(self._agenda, (instant, self._sequence, happen))

    def tell(self, event: str) -> None:
        """Let a named event happen; only the first time counts."""
        if event in self._happened:
            return
        self._happened[event] = self.now
        for go_on in self._waiting.pop(event, []):
            go_on()

    def when(self, event: str, go_on: Callable[[], None]) -> None:
        """Call ``go_on`` once ``event`` has happened, at once if it already has."""
        if event in self._happened:
            go_on()
        else:
            self._waiting.setdefault(event, []).append(go_on)

    def instant_of(self, event: str) -> float | None:
        """When an event happened."""
        return self._happened.get(event)

    def start(
        self,
        program: Program,
        parent: int,
        group: str,
        on_up: Callable[[], None] = _nothing,
        on_end: Callable[[], None] = _nothing,
    ) -> Process:
        """Start a program now."""
        self._started[program.name] += 1
        rng = Random(f"{self._seed} {program.name} {self._started[program.name]}")
        process = Process(
            pid=self._next_pid,
            parent=parent,
            program=program,
            group=group,
            started=self.now,
            on_up=on_up,
            on_end=on_end,
            rng=rng,
            todo=deque(program.actions),
        )
        self._next_pid += self._pid_steps.randint(1, 4)
        self.processes[process.pid] = process
        self._go_on(process)
        return process

    @property
    def runnable(self) -> int:
        """Threads on a core or waiting for one."""
        return len(self._ready) + self.hardware.cores - self._idle_cores

    @property
    def blocked(self) -> int:
        """Processes the disk works for, or that wait for it."""
        return len(self._requests) + (not self._disk_idle)

    @property
    def megabytes_held(self) -> float:
        return sum(process.megabytes_held for process in self.processes.values())

    @property
    def last_startup_work(self) -> float:
        """Latest instant at which something other than a program at rest was at work."""
        return self.startup_work[-1][1] if self.startup_work else 0.0

    def _at_work(self, start: float) -> None:
        """Startup work went on from ``start`` until now."""
        if self.startup_work and start <= self.startup_work[-1][1] + 1e-3:
            self.startup_work[-1][1] = self.now
        else:
            self.startup_work.append([start, self.now])

    def _go_on(self, process: Process) -> None:
        """Take the process's next action; one that was ended takes none."""
        if process.ended is not None:
            return
        while process.todo:
            if not self._act(process, process.todo.popleft()):
                return
        self._end(process)

    def _act(self, process: Process, action: Action) -> bool:  # noqa: C901 one case an action
        """Begin an action; True when it took no time."""
        match action:
            case Sleep(seconds):
                self.at(self.now + self._vary(process, seconds), lambda: self._go_on(process))
                return False
            case Compute(cpu_seconds, threads):
                self._compute(process, self._vary(process, cpu_seconds), threads)
                return False
            case Read():
                return self._read(process, action)
            case Write(megabytes):
                request = _Share(
                    process=process,
                    remaining=self._vary(process, megabytes),
                    done=lambda: self._go_on(process),
                )
                request.writing = True
                self._request(request)
                return False
            case Await(event):
                self.when(event, lambda: self.at(self.now, lambda: self._go_on(process)))
                return False
            case Hold(megabytes):
                self._hold(process, self._vary(process, megabytes))
            case Tell(event):
                self.tell(event)
            case Up():
                process.on_up()
            case Spawn(program):
                self.start(program, process.pid, process.group)
            case Stay():
                self._stay(process, action)
                return False
        return True

    def end(self, process: Process) -> None:
        """End a program now, whatever it is at."""
        process.todo.clear()
        self._end(process)

    @staticmethod
    def _vary(process: Process, size: float) -> float:
        return size * math.exp(process.rng.gauss(0.0, SPREAD))

    def _end(self, process: Process) -> None:
        process.ended = self.now
        process.megabytes_held = 0.0
        del self.processes[process.pid]
        heir = self.processes.get(process.parent) or next(iter(self.processes.values()), None)
        if heir is not None:
            heir.children_cpu_seconds += process.cpu_seconds + process.children_cpu_seconds
            heir.children_megabytes_read += process.megabytes_read + process.children_megabytes_read
        self.ended.append(process)
        process.on_end()

    def _stay(self, process: Process, action: Stay) -> None:
        def wake() -> None:
            if process.ended is not None:
                return
            share = _Share(
                process=process, remaining=self._vary(process, action.cpu_seconds), done=_nothing
            )
            share.at_rest = True
            self._queue(share)
            self._dispatch()
            self._stay(process, action)

        self.at(self.now + action.every_seconds * process.rng.uniform(0.6, 1.4), wake)

    # Cores: round robin with a quantum.

    def _compute(self, process: Process, cpu_seconds: float, threads: int) -> None:
        outstanding = threads

        def one_done() -> None:
            nonlocal outstanding
            outstanding -= 1
            if outstanding == 0:
                self._go_on(process)

        for _ in range(threads):
            share = _Share(
                process=process,
                remaining=cpu_seconds / threads / self.hardware.core_speed,
                done=one_done,
            )
            self._queue(share)
        self._dispatch()

    def _queue(self, share: _Share) -> None:
        share.ready_at = self.now
        self.cores_wanted.begin(share.process.group, self.now)
        self.waited_for.begin("cpu", self.now)
        self._ready.append(share)

    def _dispatch(self) -> None:
        while self._idle_cores and self._ready:
            share = self._ready.popleft()
            share.process.queued_seconds += self.now - share.ready_at
            self.cores_wanted.end(share.process.group, self.now)
            self.waited_for.end("cpu", self.now)
            self._idle_cores -= 1
            length = min(QUANTUM_SECONDS, share.remaining)
            self.at(self.now + length + SWITCH_SECONDS, self._slice_end(share, length))

    def _slice_end(self, share: _Share, length: float) -> Callable[[], None]:
        def end() -> None:
            self._idle_cores += 1
            share.remaining -= length
            share.process.cpu_seconds += length
            self.cpu_seconds += length
            if not share.at_rest:
                self._at_work(self.now - length - SWITCH_SECONDS)
            if share.remaining > 1e-9:
                self._queue(share)
            else:
                share.done()
            self._dispatch()

        return end

    # Disk: one request at a time, in pieces, with a seek between different files.

    def _read(self, process: Process, action: Read) -> bool:
        cached = self._cache.get(action.file, 0.0)
        missing = action.megabytes - cached
        before = self._read_before.get(action.file, 0.0)
        again = max(0.0, min(action.megabytes, before) - cached)
        self.megabytes_reread += again
        self._read_before[action.file] = max(before, action.megabytes)
        room = self.hardware.memory_megabytes * 0.92 - self.megabytes_held
        self._cache[action.file] = max(cached, min(action.megabytes, max(0.0, room)))
        if missing <= 0:
            return True
        request = _Share(
            process=process,
            remaining=self._vary(process, missing),
            done=lambda: self._go_on(process),
            scattered=action.scattered,
        )
        request.for_memory = again > 0 or action.file.startswith(SWAPPED)
        self._request(request)
        return False

    def _hold(self, process: Process, megabytes: float) -> None:
        """Take memory. What there is no room for goes to swap, and is wanted back at once."""
        process.megabytes_held += megabytes
        over = self.megabytes_held - HELD_AT_MOST * self.hardware.memory_megabytes
        over = min(over, megabytes)
        if over > 0:
            back = Read(f"{SWAPPED} {process.pid} {self.now}", over, scattered=True)
            process.todo.extendleft((back, Write(over)))
            self.megabytes_swapped_out += over
            self.megabytes_reread += over

    def _request(self, request: _Share) -> None:
        request.asked_at = self.now
        self._requests.append(request)
        self.drive_wanted.begin(request.process.group, self.now)
        for what in _waited_for(request):
            self.waited_for.begin(what, self.now)
        if self._disk_idle:
            self._serve()

    def _serve(self) -> None:
        if not self._requests:
            self._disk_idle = True
            return
        self._disk_idle = False
        request = self._requests.popleft()
        piece = min(PIECE_MEGABYTES, request.remaining)
        seeks = SCATTERED_SEEKS if request.scattered else int(self._disk_at is not request.process)
        self._disk_at = request.process
        took = piece / self.hardware.disk_megabytes_per_second
        took += seeks * self.hardware.seek_seconds * request.process.rng.uniform(0.6, 1.4)
        self.at(self.now + took, lambda: self._served(request, piece, took))

    def _served(self, request: _Share, piece: float, took: float) -> None:
        self.disk_busy_seconds += took
        self.disk_requests += 1
        self.disk_answer_seconds += self.now - request.asked_at
        self._at_work(self.now - took)
        request.remaining -= piece
        if request.writing:
            self.megabytes_written += piece
            request.process.megabytes_written += piece
        else:
            self.megabytes_read += piece
            request.process.megabytes_read += piece
        if request.remaining > 1e-9:
            request.asked_at = self.now
            self._requests.append(request)
        else:
            self.drive_wanted.end(request.process.group, self.now)
            for what in _waited_for(request):
                self.waited_for.end(what, self.now)
            request.done()
        self._serve()


def _waited_for(request: _Share) -> tuple[str, ...]:
    """What the machine waits for while a request of its drive goes on: nobody waits for a write."""
    if request.writing:
        return ()
    return ("io", "memory") if request.for_memory else ("io",)
