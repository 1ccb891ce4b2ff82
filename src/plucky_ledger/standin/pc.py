"""The stand-in PC as something to record: the same questions a real PC is asked."""

from collections import deque
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field
from datetime import UTC, datetime
from random import Random
from uuid import UUID

import msgspec

from plucky_ledger.core.values.reasons import ReasonCode
from plucky_ledger.recording.condition import ConditionLine
from plucky_ledger.recording.lines import (
    FORMAT,
    VERSION,
    ActivityLine,
    ContextLine,
    DriveFacts,
    EntryLine,
    Header,
    Line,
    MarkLine,
    PcFacts,
    ProgramLine,
    ProgramRow,
    ProgramsLine,
    Said,
    SampleLine,
    StageLine,
    said,
)
from plucky_ledger.standin.boot_run import BootRun, EntryTrace, Setup, Switch, group_of
from plucky_ledger.standin.machine import Hardware, Machine, Process
from plucky_ledger.standin.program import Entry, Hold, Program, Stay

TICKS = 100
QUIET_PROCESSES = 96
"""Processes of the system that do nothing worth simulating."""
QUIET_MEGABYTES = 410.0
MOST_HELD = 0.97
"""Share of the memory that can be held: some always stays free."""
SAMPLE_COST_SECONDS = 0.004
"""CPU time the recorder spends on one sample."""
MARKED_EVENTS = (
    "system up",
    "sign-in shown",
    "signed in",
    "desktop shown",
    "ready",
)
_RECORDER = Program("plucky-ledger", "plucky-ledger record", (Hold(17), Stay(3600, 0.001)))


@dataclass(frozen=True, kw_only=True)
class StandinPc:
    """A PC that exists only as numbers: its hardware and what starts by itself on it."""

    hardware: Hardware
    entries: tuple[Entry, ...]
    os_release: str
    cpu_model: str
    kernel: str
    comes_back: frozenset[str] = frozenset()
    """Entries that switch themselves on again after a boot without them, unless off for good."""
    condition: ConditionLine = field(default_factory=ConditionLine)
    uptime_seconds: float | None = None
    """How long it had been up when it is asked for its facts."""
    start_kind: str = "cold start"
    loader_seconds: float = 0.0
    """How long the loader takes before the kernel starts; 0 where nobody tells."""

    @property
    def facts(self) -> PcFacts:
        return PcFacts(
            os_release=self.os_release,
            kernel=self.kernel,
            cpu_model=self.cpu_model,
            cores=self.hardware.cores,
            memory_bytes=int(self.hardware.memory_megabytes * 2**20),
            drives=(
                DriveFacts(
                    "sda",
                    self.hardware.rotating,
                    self.hardware.disk_bytes,
                    self.hardware.disk_free_bytes,
                ),
            ),
            uptime_seconds=self.uptime_seconds,
        )

    def restart(self, setup: Setup, seed: int, at: datetime) -> "StandinBoot":
        """Start it anew in the given state; the same seed gives the same boot."""
        return StandinBoot(self, setup, seed, at)


class StandinBoot:
    """One boot of the stand-in PC: the source the recorder reads and the clock it goes by."""

    def __init__(self, pc: StandinPc, setup: Setup, seed: int, at: datetime) -> None:
        self._pc = pc
        self._setup = setup
        self._at = at
        rng = Random(seed)
        self._boot_id = str(UUID(int=rng.getrandbits(128), version=4))
        self.run = BootRun(pc.hardware, pc.entries, setup, rng)
        self._run_numbers: dict[int, int] = {}
        self._rows: dict[int, ProgramRow] = {}
        self._marked: set[str] = set()
        self.keep_pace: Callable[[float], bool] | None = None
        """Called with the seconds that have just gone by; False ends the recording."""
        self._to_end: deque[tuple[str, float | None]] = deque()

    def end(self, entry_id: str, back_after: float | None) -> None:
        """End what an entry runs, before the next sample; asked from any thread."""
        self._to_end.append((entry_id, back_after))

    # What the recorder asks of a clock.

    def now(self) -> float:
        return self.run.machine.now

    def may_ask(self) -> bool:
        return True

    def sleep_until(self, instant: float) -> bool:
        while self._to_end:
            self.run.end(*self._to_end.popleft())
        passed = instant - self.now()
        self.run.machine.run_until(instant)
        return self.keep_pace is None or self.keep_pace(passed)

    # What the recorder asks of a PC.

    def header(self) -> Header:
        return Header(
            format=FORMAT,
            version=VERSION,
            recorder="plucky-ledger stand-in PC",
            boot_id=self._boot_id,
            started_at=self._at.astimezone(UTC).isoformat(timespec="milliseconds"),
            zone="UTC",
            facts=self._pc.facts,
        )

    def opening_lines(self) -> Sequence[Line]:
        self._wait_for_userspace()
        self._recorder = self.run.machine.start(_RECORDER, 1, "/system.slice/recorder.service")
        return [
            ContextLine(
                start_kind=self._pc.start_kind,
                kernel=self._pc.kernel,
                power_source="mains",
                updates_running=self._setup.updates_running,
            )
        ]

    def _wait_for_userspace(self) -> None:
        while self.run.machine.instant_of("userspace") is None:
            self.run.machine.run_until(self.now() + 0.1)

    def sample(self) -> Sequence[Line]:
        machine = self.run.machine
        seconds = round(machine.now, 3)
        own = self._recorder
        own.cpu_seconds += SAMPLE_COST_SECONDS
        machine.cpu_seconds += SAMPLE_COST_SECONDS
        lines = [*self._new_marks(), *self._program_lines(seconds)]
        lines.append(
            SampleLine(
                seconds=seconds,
                cpu_seconds=round(machine.cpu_seconds, 2),
                disk_read_bytes=int(machine.megabytes_read * 1e6),
                disk_written_bytes=int(machine.megabytes_written * 1e6),
                disk_busy_seconds=round(machine.disk_busy_seconds, 3),
                memory_held_bytes=self._memory_held(),
                processes=QUIET_PROCESSES + len(machine.processes),
                own_cpu_seconds=round(own.cpu_seconds, 3),
                own_memory_bytes=int(own.megabytes_held * 1e6),
                runnable=machine.runnable,
                blocked=machine.blocked,
                disk_requests=machine.disk_requests,
                disk_answer_seconds=round(machine.disk_answer_seconds, 4),
                cpu_pressure_seconds=round(machine.waited_for.until("cpu", machine.now), 3),
                io_pressure_seconds=round(machine.waited_for.until("io", machine.now), 3),
                memory_pressure_seconds=round(machine.waited_for.until("memory", machine.now), 3),
            )
        )
        return lines

    def _memory_held(self) -> int:
        """What is held, swap left out; in bytes."""
        held = (QUIET_MEGABYTES + self.run.machine.megabytes_held) * 1e6
        return int(min(held, MOST_HELD * self._pc.facts.memory_bytes))

    def _program_lines(self, seconds: float) -> list[Line]:
        lines: list[Line] = []
        rows = []
        alive = {process.pid: process for process in self.run.alive()}
        ended = [self._run_numbers.pop(pid) for pid in list(self._run_numbers) if pid not in alive]
        for pid, process in alive.items():
            if pid not in self._run_numbers:
                self._run_numbers[pid] = len(self._rows)
                lines.append(self._described(process))
            number = self._run_numbers[pid]
            row = _row(number, process)
            if self._rows.get(number) != row:
                self._rows[number] = row
                rows.append(row)
        if rows or ended:
            lines.append(ProgramsLine(seconds, tuple(rows), tuple(ended)))
        return lines

    def _described(self, process: Process) -> ProgramLine:
        return ProgramLine(
            run=self._run_numbers[process.pid],
            pid=process.pid,
            start_tick=int(process.started * TICKS),
            parent=process.parent,
            name=process.program.name,
            command=process.program.command,
            user=process.program.user_id,
            group=process.group,
            started=round(process.started, 2),
            own=process is self._recorder,
        )

    def closing_lines(self, going_on: Callable[[], bool]) -> Sequence[Line]:  # noqa: ARG002 it knows
        userspace = self.run.machine.instant_of("userspace") or 0.0
        lines: list[Line] = [
            MarkLine("kernel started", 0.0, "kernel"),
            StageLine("kernel", 0.0, round(userspace, 3)),
        ]
        if self._pc.loader_seconds:
            lines.append(StageLine("loader", -self._pc.loader_seconds, 0.0))
        lines.extend(self._new_marks())
        lines.extend(self._entry_lines())
        lines.extend(_activity(trace, self.run.machine) for trace in self.run.traces.values())
        if self._pc.condition != ConditionLine():
            lines.append(self._condition())
        return lines

    def _condition(self) -> ConditionLine:
        machine = self.run.machine
        return msgspec.structs.replace(
            self._pc.condition,
            reread_bytes=int(machine.megabytes_reread * 1e6),
            swapped_out_bytes=int(machine.megabytes_swapped_out * 1e6),
        )

    def _new_marks(self) -> Iterable[MarkLine]:
        for event in MARKED_EVENTS:
            instant = self.run.machine.instant_of(event)
            if instant is not None and event not in self._marked:
                self._marked.add(event)
                yield MarkLine(event, round(instant, 3), "stand-in PC")

    def _entry_lines(self) -> Iterable[EntryLine]:
        for entry in self._pc.entries:
            if self._setup.of(entry.entry_id) is Switch.OFF:
                continue
            yield EntryLine(
                entry=entry.entry_id,
                name=entry.name,
                owner=entry.owner,
                starts=entry.kind,
                origin=entry.origin,
                command=f"{entry.wrapped_by} {entry.command}".strip(),
                part_of_system=entry.part_of_system,
                guarded=entry.guarded,
                left_behind=entry.program is None,
                executable=entry.program.command.split()[0] if entry.program else "",
                package=entry.package,
                description=entry.description,
                timers=_timers(entry),
            )


def _timers(entry: Entry) -> tuple[Said, ...]:
    if entry.timer_seconds is None:
        return ()
    return (said(ReasonCode.AFTER_SERVICES, seconds=entry.timer_seconds),)


def _row(number: int, process: Process) -> ProgramRow:
    return ProgramRow(
        number,
        round(process.cpu_seconds, 2),
        int((4 + process.megabytes_held) * 1e6),
        int((process.megabytes_read + process.children_megabytes_read) * 1e6),
        int(process.megabytes_written * 1e6),
        round(process.children_cpu_seconds, 2),
        queued_seconds=round(process.queued_seconds, 3),
    )


def _activity(trace: EntryTrace, machine: Machine) -> ActivityLine:
    def rounded(seconds: float | None) -> float | None:
        return None if seconds is None else round(seconds, 3)

    return ActivityLine(
        entry=trace.entry.entry_id,
        waiting_from=rounded(trace.waiting_from),
        starting_from=rounded(trace.starting_from),
        up_at=rounded(trace.up_at),
        ended_at=rounded(trace.ended_at),
        result=trace.result,
        after=trace.entry.after,
        cpu_pressure_seconds=rounded(machine.cores_wanted.seconds[group_of(trace.entry)]),
        io_pressure_seconds=rounded(machine.drive_wanted.seconds[group_of(trace.entry)]),
        restarts=trace.restarts,
    )
