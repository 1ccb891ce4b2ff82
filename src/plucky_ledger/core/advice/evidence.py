"""What the rules look at: the newest boots of the state a PC is in, and what is known besides."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from statistics import median

import numpy as np

from plucky_ledger.core.advice.finding import Curve
from plucky_ledger.core.boots.analysis import Analysis
from plucky_ledger.core.boots.boot import Boot, How
from plucky_ledger.core.boots.marks import human_wait
from plucky_ledger.core.boots.programs import value_at
from plucky_ledger.core.boots.samples import Floats, cut_off, grown_by, rates
from plucky_ledger.core.boots.stock import BeyondStock
from plucky_ledger.core.boots.waits import Waits, waits_between
from plucky_ledger.core.entries.decisions import Decided
from plucky_ledger.core.entries.entry import StartupEntry
from plucky_ledger.core.pc.condition import Condition
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.pc.history import PowerLog
from plucky_ledger.core.replay.startup_cost import PlanEstimate, StartupCost
from plucky_ledger.core.values.measures import Measure

CURVE_POINTS = 90
AFTER_SETTLED = 1.1
"""How far a course goes on, relative to settled."""


@dataclass(frozen=True, kw_only=True, eq=False)
class Evidence:
    """Everything the rules go by."""

    facts: Facts
    taken_in_at: datetime
    starts: tuple[Boot, ...] = ()
    """Every start of the PC that is known, oldest first."""
    recorded: tuple[Analysis, ...] = ()
    """Recorded starts in the state the PC is in, oldest first."""
    at_rest: tuple[Analysis, ...] = ()
    """Readings at rest, oldest first."""
    condition: Condition = field(default_factory=Condition)
    costs: Mapping[str, StartupCost] = field(default_factory=dict)
    decided: Mapping[str, Decided] = field(default_factory=dict)
    settled_seconds: float = 0.0
    """Balance of settled; 0 where nothing settled."""
    quicker_drive: PlanEstimate | None = None
    quicker_processor: PlanEstimate | None = None
    more_memory: PlanEstimate | None = None
    """Where nothing would have to be read twice or swapped."""
    beyond_stock: BeyondStock | None = None
    power_log: PowerLog = field(default_factory=PowerLog)

    @property
    def newest(self) -> Analysis | None:
        """The newest recorded start."""
        return self.recorded[-1] if self.recorded else None

    @property
    def entries(self) -> Mapping[str, StartupEntry]:
        """What starts by itself, as the newest recording tells."""
        newest = self.newest
        return {e.entry_id: e for e in newest.timeline.entries} if newest else {}


def spared_by_memory(recorded: Sequence[Analysis]) -> float:
    """Share of all that the drive moved in the newest start which more memory would have spared:
    0 where nobody counted.
    """
    for analysis in reversed(recorded):
        told, samples = analysis.timeline.condition, analysis.timeline.samples
        if told is None or told.reread_bytes is None or samples is None:
            continue
        moved = grown_by(samples.disk_read_bytes, samples.seconds, samples.end)
        moved += grown_by(samples.disk_written_bytes, samples.seconds, samples.end)
        spared = told.reread_bytes + (told.swapped_out_bytes or 0)
        return min(spared / moved, 1.0) if moved > 0 else 0.0
    return 0.0


@dataclass(frozen=True)
class Busy:
    """How busy a PC was until it had settled. Shares of that time, waits for a person left out."""

    disk: float
    cpu: float
    bytes_per_busy_second: float
    """What the drive moved while it had work."""


def busy_until_settled(analysis: Analysis) -> Busy | None:
    """How busy one start was; None without samples."""
    samples = analysis.samples
    if samples is None or len(samples) < 3:
        return None
    until = analysis.settled_at or samples.end
    length = max(until - human_wait(analysis.boot.marks), 1.0)
    seconds = samples.seconds
    disk = grown_by(samples.disk_busy_seconds, seconds, until)
    cpu = grown_by(samples.cpu_seconds, seconds, until)
    own = grown_by(samples.own_cpu_seconds, seconds, until)
    moved = grown_by(samples.disk_read_bytes, seconds, until)
    moved += grown_by(samples.disk_written_bytes, seconds, until)
    return Busy(
        disk=min(disk / length, 1.0),
        cpu=min((cpu - own) / (length * samples.cores), 1.0),
        bytes_per_busy_second=moved / disk if disk > 0 else 0.0,
    )


def typical_busy(recorded: tuple[Analysis, ...]) -> Busy | None:
    """The typical start of several, figure by figure."""
    each = [busy for analysis in recorded if (busy := busy_until_settled(analysis)) is not None]
    if not each:
        return None
    return Busy(
        median(busy.disk for busy in each),
        median(busy.cpu for busy in each),
        median(busy.bytes_per_busy_second for busy in each),
    )


def waits_in_startup(recorded: Sequence[Analysis]) -> Waits | None:
    """What the newest start waited for until it had settled; None where it was not sampled."""
    for analysis in reversed(recorded):
        samples = analysis.samples
        if samples is not None and len(samples):
            until = analysis.settled_at or samples.end
            return waits_between(samples, 0.0, until, human_wait(analysis.boot.marks))
    return None


def waits_at_rest(analyses: Sequence[Analysis]) -> Waits | None:
    """The same at rest: in the newest recording that goes on so long, in time, or is one of it."""
    for analysis in sorted(analyses, key=lambda one: one.boot.started_at, reverse=True):
        samples, settled = analysis.samples, analysis.settled_at
        if samples is None or not len(samples):
            continue
        at_rest = analysis.boot.how is How.AT_REST
        begin = float(samples.seconds[0]) if at_rest else settled
        if begin is None:
            continue
        if (waits := waits_between(samples, begin, samples.end)) is not None:
            return waits
    return None


def held_at_last(analysis: Analysis) -> float | None:
    """Bytes held at rest, or at the end of a recording that never came to rest."""
    reading = analysis.readings.get(Measure.MEMORY_HELD)
    if reading is not None:
        return reading.value * 1e6
    samples = analysis.samples
    return float(samples.memory_held_bytes[-1]) if samples is not None and len(samples) else None


def held_by_program(analysis: Analysis) -> dict[str, float]:
    """Bytes that programs held at the end of a recording, by their names; shared ones count in
    each.
    """
    end = analysis.samples.end if analysis.samples is not None else 0.0
    held: dict[str, float] = {}
    for run in analysis.timeline.runs:
        if not run.own and run.ended is None:
            held[run.name] = held.get(run.name, 0.0) + value_at(run, run.memory_bytes, end)
    return held


def course(analysis: Analysis, of: str) -> Curve | None:
    """How busy drive or cores were, or how full the memory, over one recording."""
    samples = analysis.samples
    if samples is None or len(samples) < 3:
        return None
    if of == "memory":
        if not samples.memory_total_bytes:
            return None
        shares = samples.memory_held_bytes / samples.memory_total_bytes
        return _thinned(of, samples.seconds, shares)
    until = (analysis.settled_at or samples.end) * AFTER_SETTLED
    went = rates(cut_off(samples, until))
    return _thinned(of, went.end, went.disk_share if of == "disk" else went.cpu_share)


def _thinned(of: str, seconds: Floats, shares: Floats) -> Curve:
    """As many points as can be seen in a small picture, each the mean of its stretch."""
    parts = np.array_split(np.arange(len(seconds)), min(CURVE_POINTS, len(seconds)))
    clean = np.clip(np.nan_to_num(shares), 0.0, 1.0)
    return Curve(
        of,
        tuple(round(float(seconds[part].mean()), 2) for part in parts),
        tuple(round(float(clean[part].mean()), 3) for part in parts),
    )
