"""The PC we run on, as a source for the recorder."""

import os
import resource
import time
from collections.abc import Callable, Sequence
from datetime import UTC, datetime
from pathlib import Path
from typing import TYPE_CHECKING

from plucky_ledger import __version__
from plucky_ledger.capture.hardware.facts import facts_of_this_pc
from plucky_ledger.capture.sampling.counters import (
    KeptFile,
    cpu_seconds,
    disk_counters,
    memory_bytes,
    real_drives,
    threads_at_work,
)
from plucky_ledger.capture.sampling.pressure import pressure_seconds
from plucky_ledger.capture.sampling.programs import ProgramSampler
from plucky_ledger.core.values.reasons import ReasonCode
from plucky_ledger.linux.this_boot import boot_id
from plucky_ledger.recording.lines import (
    FORMAT,
    VERSION,
    ContextLine,
    Header,
    Line,
    MarkLine,
    NoteLine,
    SampleLine,
    said,
)

if TYPE_CHECKING:
    from plucky_ledger.capture.boot_questions import EarlyAnswers

PROC = Path("/proc")
CLOCK_STEP_SECONDS = 2.0


class ThisPc:
    """Reads the counters of the PC it runs on."""

    def __init__(self, proc: Path = PROC, armed: bool = False) -> None:
        self._proc = proc
        self._armed = armed
        self._early: EarlyAnswers | None = None
        self._ticks = os.sysconf("SC_CLK_TCK")
        self._page = os.sysconf("SC_PAGE_SIZE")
        self._stat = KeptFile(proc / "stat")
        self._meminfo = KeptFile(proc / "meminfo")
        self._diskstats = KeptFile(proc / "diskstats")
        self._own_statm = KeptFile(proc / "self/statm")
        self._pressures = [_kept_pressure(proc, of) for of in ("cpu", "io", "memory")]
        self._drives = real_drives()
        self._programs = ProgramSampler(proc)
        self._slept_before = _sleep_so_far()
        self._started_at = _kernel_started_at()

    def header(self) -> Header:
        started = datetime.fromtimestamp(self._started_at, UTC)
        return Header(
            format=FORMAT,
            version=VERSION,
            recorder=f"plucky-ledger {__version__}",
            boot_id=boot_id(self._proc),
            started_at=started.isoformat(timespec="milliseconds"),
            zone=time.strftime("%Z"),
            facts=facts_of_this_pc(),
            armed=self._armed,
        )

    def opening_lines(self) -> Sequence[Line]:
        if self._armed:
            from plucky_ledger.capture.boot_questions import EarlyAnswers

            self._early = EarlyAnswers()
        return [ContextLine(kernel=os.uname().release, power_source=power_source())]

    def sample(self) -> Sequence[Line]:
        now = time.clock_gettime(time.CLOCK_BOOTTIME)
        stat = self._stat.read()
        runnable, blocked = threads_at_work(stat)
        disk = disk_counters(self._diskstats.read(), self._drives)
        held = memory_bytes(self._meminfo.read())[1]
        cpu_pressure, io_pressure, memory_pressure = (
            pressure_seconds(file.read()) if file is not None else None for file in self._pressures
        )
        seconds = round(now, 3)
        lines = self._early.take() if self._early else []
        lines.extend(self._programs.sample(seconds))
        own = resource.getrusage(resource.RUSAGE_SELF)
        lines.append(
            SampleLine(
                seconds=seconds,
                cpu_seconds=cpu_seconds(stat, self._ticks),
                disk_read_bytes=disk.bytes_read,
                disk_written_bytes=disk.bytes_written,
                disk_busy_seconds=disk.busy_seconds,
                memory_held_bytes=held,
                processes=self._programs.processes,
                own_cpu_seconds=round(own.ru_utime + own.ru_stime, 4),
                own_memory_bytes=int(self._own_statm.read().split()[1]) * self._page,
                runnable=runnable,
                blocked=blocked,
                disk_requests=disk.requests,
                disk_answer_seconds=disk.answer_seconds,
                cpu_pressure_seconds=cpu_pressure,
                io_pressure_seconds=io_pressure,
                memory_pressure_seconds=memory_pressure,
            )
        )
        return lines

    def closing_lines(self, going_on: Callable[[], bool]) -> Sequence[Line]:
        """The marks the system can give, and what it says of the entries."""
        from plucky_ledger.capture.boot_questions import told_of_this_boot
        from plucky_ledger.capture.sampling.reference_work import control_lines

        told_before: frozenset[ReasonCode] = frozenset()
        if self._early:
            told_before = self._early.told
            self._early.stop()
        lines: list[Line] = [MarkLine("kernel started", 0.0, "the kernel's own clock")]
        if going_on():
            lines.extend(control_lines())
        if self._programs.denied:
            lines.append(NoteLine(said=said(ReasonCode.READS_NOT_PERMITTED)))
        moved = _kernel_started_at() - self._started_at
        if abs(moved) > CLOCK_STEP_SECONDS:
            lines.append(NoteLine(said=said(ReasonCode.CLOCK_SET, seconds=round(moved))))
        lines.extend(told_of_this_boot(going_on, told_before))
        if self._slept():
            lines.append(ContextLine(start_kind="resume", suspended_seconds=self._slept()))
        return lines

    def close(self) -> None:
        """Stop all queries, and close the files that were kept open: one for each process."""
        if self._early:
            self._early.stop()
        kept = (self._stat, self._meminfo, self._diskstats, self._own_statm, *self._pressures)
        for file in filter(None, kept):
            file.close()
        self._programs.close()

    def _slept(self) -> float:
        """Seconds the PC slept since the recording began."""
        return max(0.0, round(_sleep_so_far() - self._slept_before, 1))


def _kept_pressure(proc: Path, of: str) -> KeptFile | None:
    """The kernel's account of what waited; None where it keeps none, or lets nobody read it."""
    try:
        file = KeptFile(proc / "pressure" / of)
        file.read()
    except OSError:
        return None
    return file


def _kernel_started_at() -> float:
    """Wall clock when the kernel started, as it looks now: seconds of the epoch."""
    return time.time() - time.clock_gettime(time.CLOCK_BOOTTIME)


def _sleep_so_far() -> float:
    """Seconds this boot has spent suspended: only one of the two clocks goes on then."""
    return time.clock_gettime(time.CLOCK_BOOTTIME) - time.clock_gettime(time.CLOCK_MONOTONIC)


def power_source(supplies: Path = Path("/sys/class/power_supply")) -> str:
    """Either "mains" or "battery"; empty when the PC does not tell."""
    try:
        mains = [
            (supply / "online").read_text().strip()
            for supply in supplies.iterdir()
            if (supply / "type").read_text().strip() == "Mains"
        ]
    except OSError:
        return ""
    if not mains:
        return ""
    return "mains" if "1" in mains else "battery"
