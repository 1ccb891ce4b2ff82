"""Made-up program runs and samples, as short as tests need them."""

from datetime import UTC, datetime
from pathlib import Path

import numpy as np

from plucky_ledger.core.boots.analysis import Analysis
from plucky_ledger.core.boots.boot import Boot, How
from plucky_ledger.core.boots.programs import ProgramRun
from plucky_ledger.core.boots.samples import Samples
from plucky_ledger.core.boots.timeline import Timeline
from plucky_ledger.core.entries.entry import EntryKind, EntryOwner, StartupEntry
from plucky_ledger.exchange.boots import RecordedBoot, boot_from_bytes

REAL = Path(__file__).parent.parent / "data" / "real-boot"


def run(
    number,
    pid,
    parent=1,
    name="x",
    command="",
    group="",
    started=0.0,
    ended=None,
    own=False,
    cpu=((1.0, 1.0),),
    read=0.0,
    children=0.0,
    memory=1e6,
    user=1000,
    faulted=np.nan,
    queued=np.nan,
):
    """A run with CPU readings ``(instant, cumulative seconds)``; the rest constant."""
    at = np.array([row[0] for row in cpu], dtype=float)
    flat = np.ones_like(at)
    return ProgramRun(
        run=number,
        pid=pid,
        start_tick=int(started * 100),
        parent_pid=parent,
        name=name,
        command=command or f"/opt/{name}",
        user_id=user,
        control_group=group,
        started=started,
        seconds=at,
        cpu_seconds=np.array([row[1] for row in cpu], dtype=float),
        memory_bytes=memory * flat,
        children_cpu_seconds=np.asarray(children) * flat,
        shared_bytes=np.nan * flat,
        proportional_bytes=np.nan * flat,
        queued_seconds=np.asarray(queued) * flat,
        faulted_bytes=np.asarray(faulted) * flat,
        bytes_read=read * flat,
        bytes_written=0.0 * flat,
        ended=ended,
        own=own,
    )


def samples(total_cpu, end=10.0, count=11, read=0.0, cores=2):
    """Samples whose counters grow evenly to the totals."""
    seconds = np.linspace(0.0, end, count)
    zero = np.zeros_like(seconds)
    return Samples(
        seconds=seconds,
        cpu_seconds=np.linspace(0, total_cpu, count),
        disk_read_bytes=np.linspace(0, read, count),
        disk_written_bytes=zero,
        disk_busy_seconds=zero,
        memory_held_bytes=zero,
        processes=zero,
        own_cpu_seconds=zero,
        own_memory_bytes=zero,
        cores=cores,
    )


def entry(entry_id, command="", kind=EntryKind.SIGN_IN_PROGRAM, group="", **more):
    """An entry with what a test is about."""
    name, origin = more.pop("name", entry_id), more.pop("origin", f"/etc/{entry_id}")
    return StartupEntry(
        entry_id=entry_id,
        name=name,
        owner=EntryOwner.USER,
        kind=kind,
        origin=origin,
        command=command,
        group=group,
        **more,
    )


def real_boot(name: str) -> RecordedBoot:
    """A whole boot of a real PC, captured once."""
    return boot_from_bytes((REAL / f"{name}.jsonl.gz").read_bytes())


def analysed(boot=None, aside=(), **timeline) -> Analysis:
    """The analysis of a made-up boot with what a test is about."""
    boot = boot or Boot(number=1, started_at=datetime(2026, 11, 2, 9, tzinfo=UTC), how=How.RECORDED)
    return Analysis(boot, Timeline(**timeline), frozenset(aside))


def real_analysis(name: str) -> Analysis:
    """The analysis of a whole boot of a real PC."""
    found = real_boot(name)
    return Analysis(found.boot, found.timeline)
