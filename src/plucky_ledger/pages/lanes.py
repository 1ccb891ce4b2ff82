"""The Lanes lens: one boot as a timeline, and what lies under the crosshair."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from enum import StrEnum

from plucky_ledger.core.analysis import Analysis
from plucky_ledger.core.book.balance import balance_of
from plucky_ledger.core.book.job import readings_in
from plucky_ledger.core.boots.boot import Boot
from plucky_ledger.core.boots.chain import Link, chain_to
from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.core.boots.samples import Floats, Samples, rates
from plucky_ledger.core.boots.stages import Stage, stages_of
from plucky_ledger.core.boots.timeline import Activity, Timeline
from plucky_ledger.core.cost.estimate import Estimate
from plucky_ledger.core.cost.startup_cost import StartupCost
from plucky_ledger.core.entries.entry import EntryKind, StartupEntry
from plucky_ledger.core.measures import Measure
from plucky_ledger.core.reasons import Reason

FLAGGED = (
    Mark.POWER_ON,
    Mark.SYSTEM_UP,
    Mark.SIGN_IN_SHOWN,
    Mark.SIGNED_IN,
    Mark.DESKTOP_SHOWN,
    Mark.READY,
)


class StripKind(StrEnum):
    """What a curve shows."""

    CPU = "cpu"
    DISK = "disk"
    MEMORY = "memory"
    PROCESSES = "processes"


class Lacks(StrEnum):
    """What a boot has not got."""

    NOTHING = "nothing"
    SAMPLES = "samples"
    ENTRIES = "entries"
    START = "start"
    """It is a reading at rest."""


@dataclass(frozen=True)
class Flag:
    """A mark on the ruler."""

    mark: Mark
    seconds: float


@dataclass(frozen=True, eq=False)
class Strip:
    """One resource curve, drawn as steps between neighbouring instants."""

    kind: StripKind
    full: float
    """What full height means: cores, seconds of a second, bytes, or processes."""
    edges: Floats
    """Shape (n + 1,): seconds at which the steps begin and end."""
    heights: Floats
    """Shape (n,): 0 to 1; NaN where unknown."""
    moved: Floats | None = None
    """Shape (n,), for the disk: bytes a second read and written."""


@dataclass(frozen=True)
class StripReading:
    """What a curve reads at an instant."""

    kind: StripKind
    height: float
    """0 to 1; NaN where unknown."""
    value: float
    """In what ``Strip.full`` is in."""
    moved: float | None


@dataclass(frozen=True)
class Lane:
    """One startup entry, or several folded into one."""

    entry_id: str
    name: str
    """As the PC calls it."""
    waiting: tuple[float, float] | None
    starting: tuple[float, float] | None
    running: tuple[float, float] | None
    result: Reason | None
    """What went wrong."""
    left_behind_at: float | None
    """When it was asked to start although its program is gone."""
    cost: Estimate | None
    """Seconds it delays settled by; None where nobody knows."""
    part_of_system: bool
    folded: int = 0
    """How many parts of the system lie folded in it."""


@dataclass(frozen=True)
class ChainLine:
    """One chain as a line through the lanes."""

    mark: Mark
    """The mark it held up."""
    links: tuple[Link, ...]
    until: float


@dataclass(frozen=True)
class LanesPage:
    """Everything the lens shows of one boot. Seconds since the kernel started."""

    boot: Boot
    start: float
    end: float
    flags: tuple[Flag, ...]
    bands: tuple[Stage, ...]
    strips: tuple[Strip, ...]
    lanes: tuple[Lane, ...]
    chains: tuple[ChainLine, ...]
    """The chains that held up settled and system up."""
    lacks: Lacks


def lanes_page(analysis: Analysis, costs: Mapping[str, StartupCost] | None = None) -> LanesPage:
    """The lanes of one boot; a boot timed by hand has marks and stages only.

    ``costs`` of the entries, by their ids, stand at the right once they are known.
    """
    boot, timeline, settled_at = analysis.boot, analysis.timeline, analysis.settled_at
    flags = [Flag(mark, boot.marks[mark]) for mark in FLAGGED if mark in boot.marks]
    if settled_at is not None:
        flags.append(Flag(Mark.SETTLED, settled_at))
    end = _end(boot, analysis.samples, settled_at)
    bands = stages_of(boot.marks, timeline.stages, settled_at) if boot.is_start else ()
    return LanesPage(
        boot=boot,
        start=_start(analysis, flags, bands),
        end=end,
        flags=tuple(sorted(flags, key=lambda flag: flag.seconds)),
        bands=bands,
        strips=strips_of(analysis.samples) if analysis.samples is not None else (),
        lanes=_lanes(timeline, end, costs or {}),
        chains=_chains(boot, timeline, settled_at),
        lacks=_lacks(boot, timeline),
    )


def _start(analysis: Analysis, flags: Iterable[Flag], bands: Iterable[Stage]) -> float:
    """Left end of the view: power on or the kernel's start; what was seen of a reading at rest."""
    if not analysis.boot.is_start and analysis.samples is not None:
        return float(analysis.samples.seconds[0])
    return min([0.0, *(flag.seconds for flag in flags), *(band.start for band in bands)])


def _end(boot: Boot, samples: Samples | None, settled: float | None) -> float:
    """Right end of the view: somewhat behind settled, or the end of what is known."""
    last = max(boot.marks.values(), default=1.0)
    if settled is not None:
        return max(settled, last) * 1.04 + 6
    return max(last * 1.06 + 1, samples.end if samples is not None else 0.0)


def _lacks(boot: Boot, timeline: Timeline) -> Lacks:
    if timeline.samples is None:
        return Lacks.SAMPLES
    if not boot.is_start:
        return Lacks.START
    return Lacks.NOTHING if timeline.activities else Lacks.ENTRIES


def strips_of(samples: Samples) -> tuple[Strip, ...]:
    """The four resource curves of a boot."""
    if len(samples) < 2:
        return ()
    usable = rates(samples)
    total = samples.memory_total_bytes or float(samples.memory_held_bytes.max())
    memory, processes = samples.memory_held_bytes[1:], samples.processes[1:]
    most = float(processes.max())
    edges = samples.seconds
    return (
        Strip(StripKind.CPU, float(samples.cores), edges, usable.cpu_share),
        Strip(StripKind.DISK, 1.0, edges, usable.disk_share, usable.disk_bytes_per_second),
        Strip(StripKind.MEMORY, total, edges, memory / total),
        Strip(StripKind.PROCESSES, most, edges, processes / most),
    )


def _chains(boot: Boot, timeline: Timeline, settled: float | None) -> tuple[ChainLine, ...]:
    services = frozenset(
        entry.entry_id for entry in timeline.entries if entry.kind is EntryKind.SYSTEM_SERVICE
    )
    ends = (
        (Mark.SETTLED, settled, None),
        (Mark.SYSTEM_UP, boot.marks.get(Mark.SYSTEM_UP), services),
    )
    shown_at, signed_in = boot.marks.get(Mark.SIGN_IN_SHOWN), boot.marks.get(Mark.SIGNED_IN)
    sign_in = (shown_at, signed_in) if shown_at is not None and signed_in is not None else None
    bars = []
    for mark, instant, among in ends:
        if instant is not None:
            links = chain_to(instant, timeline.activities, among, sign_in)
            if links:
                bars.append(ChainLine(mark, links, instant))
    return tuple(bars)


def folded(page: LanesPage) -> LanesPage:
    """The page with the parts of the system in one lane, those on a chain left out of the fold."""
    on_chain = {link.entry_id for chain in page.chains for link in chain.links}
    parts = [lane for lane in page.lanes if lane.part_of_system and lane.entry_id not in on_chain]
    if len(parts) < 2:
        return page
    begun = [lane.starting[0] for lane in parts if lane.starting]
    ended = [lane.starting[1] for lane in parts if lane.starting]
    starting = (min(begun), max(ended)) if begun else None
    fold = Lane("", "", None, starting, None, None, None, None, True, len(parts))
    inside = {lane.entry_id for lane in parts}
    others = (lane for lane in page.lanes if lane.entry_id not in inside)
    return replace(page, lanes=(fold, *others))


def typical_boot(boots: tuple[Boot, ...], measure: Measure) -> Boot | None:
    """The boot of a round that lies closest to its balance: a real one, no average of curves."""
    balance = balance_of(measure, readings_in(boots, measure))
    having = [boot for boot in boots if boot.counts and measure in boot.readings]
    if balance is None or not having:
        return None
    return min(having, key=lambda boot: abs(boot.readings[measure].value - balance.value))


def _lanes(timeline: Timeline, end: float, costs: Mapping[str, StartupCost]) -> tuple[Lane, ...]:
    entries = {entry.entry_id: entry for entry in timeline.entries}
    ordered = sorted(timeline.activities, key=_first)
    return tuple(
        _lane(entries.get(activity.entry_id), activity, end, costs.get(activity.entry_id))
        for activity in ordered
    )


def _first(activity: Activity) -> float:
    known = (activity.waiting_from, activity.starting_from, activity.up_at)
    return min((seconds for seconds in known if seconds is not None), default=float("inf"))


def _lane(
    entry: StartupEntry | None, activity: Activity, end: float, cost: StartupCost | None
) -> Lane:
    begin, up, gone = activity.starting_from, activity.up_at, activity.ended_at
    started_until = up if up is not None else gone if gone is not None else end
    return Lane(
        entry_id=activity.entry_id,
        name=entry.name if entry else activity.entry_id,
        waiting=_span(activity.waiting_from, begin),
        starting=_span(begin, started_until),
        running=_span(up, gone if gone is not None else end) if up is not None else None,
        result=activity.result,
        left_behind_at=begin if entry and entry.left_behind else None,
        cost=cost.settled if cost else None,
        part_of_system=bool(entry and entry.part_of_system),
    )


def _span(start: float | None, end: float | None) -> tuple[float, float] | None:
    return (start, end) if start is not None and end is not None and end >= start else None


def reading_of(strip: Strip, index: int) -> StripReading:
    """What a curve reads in one of its steps."""
    height = float(strip.heights[index])
    moved = float(strip.moved[index]) if strip.moved is not None else None
    return StripReading(strip.kind, height, height * strip.full, moved)


def under_crosshair(page: LanesPage, seconds: float) -> tuple[StripReading, ...]:
    """What all curves read at an instant."""
    lines = []
    for strip in page.strips:
        index = int(strip.edges.searchsorted(seconds, side="right")) - 1
        if 0 <= index < len(strip.heights):
            lines.append(reading_of(strip, index))
    return tuple(lines)
