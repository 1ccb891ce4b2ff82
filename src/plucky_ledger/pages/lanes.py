"""The Lanes lens: one boot as a timeline, and the readings under the crosshair."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from math import isnan

from plucky_ledger.core.book.balance import balance_of
from plucky_ledger.core.book.fairness import boot_concerns
from plucky_ledger.core.book.job import readings_in
from plucky_ledger.core.boots.boot import Activity, Boot, How, StartKind, StartupEntry, Timeline
from plucky_ledger.core.boots.chain import Link, chain_to
from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.core.boots.readings import settled_of
from plucky_ledger.core.boots.samples import Floats, Samples, rates
from plucky_ledger.core.boots.stages import SIGN_IN_WAIT, stages_of
from plucky_ledger.core.cost.cost import StartupCost
from plucky_ledger.core.measures import Measure
from plucky_ledger.wording.figures import day_and_time, memory_size, shown, size, tenths

FLAGGED = (
    Mark.POWER_ON,
    Mark.SYSTEM_UP,
    Mark.SIGN_IN_SHOWN,
    Mark.SIGNED_IN,
    Mark.DESKTOP_SHOWN,
    Mark.READY,
)


@dataclass(frozen=True)
class Flag:
    """A mark on the ruler."""

    label: str
    seconds: float


@dataclass(frozen=True)
class Band:
    """One stage of the stage band."""

    label: str
    start: float
    end: float
    not_charged: bool
    """The sign-in wait: hatched, never counted."""


@dataclass(frozen=True, eq=False)
class Strip:
    """One resource curve, drawn as steps between neighbouring instants."""

    kind: str
    """"cpu", "disk", "memory" or "processes"."""
    title: str
    caption: str
    """What full height means."""
    edges: Floats
    """Shape (n + 1,): seconds at which the steps begin and end."""
    heights: Floats
    """Shape (n,): 0 to 1; NaN where unknown."""
    readings: tuple[str, ...]
    """Each step's value in words."""


@dataclass(frozen=True)
class Lane:
    """One startup entry."""

    entry_id: str
    name: str
    waiting: tuple[float, float] | None
    starting: tuple[float, float] | None
    running: tuple[float, float] | None
    note: str
    """Why there is nothing to draw, or what went wrong."""
    cost: str
    """Seconds it delays settled by; empty where nobody knows."""
    part_of_system: bool


@dataclass(frozen=True)
class Thread:
    """One chain as a line through the lanes."""

    title: str
    """The mark it held up."""
    links: tuple[Link, ...]
    until: float


FOLDED = "parts of the system"


@dataclass(frozen=True)
class LanesPage:
    """Everything the lens shows of one boot. Seconds since the kernel started."""

    start: float
    end: float
    flags: tuple[Flag, ...]
    bands: tuple[Band, ...]
    strips: tuple[Strip, ...]
    lanes: tuple[Lane, ...]
    threads: tuple[Thread, ...]
    """The chains that held up settled and system up."""
    note: str
    """What this boot lacks and why; empty when it has everything."""


def lanes_page(
    boot: Boot, timeline: Timeline, costs: Mapping[str, StartupCost] | None = None
) -> LanesPage:
    """The lanes of one boot; a boot timed by hand has marks and stages only.

    ``costs`` of the entries, by their ids, stand at the right once they are known.
    """
    settled = settled_of(boot.marks, timeline.samples)
    settled_at = settled.seconds if settled and not settled.censored else None
    flags = [Flag(str(mark), boot.marks[mark]) for mark in FLAGGED if mark in boot.marks]
    if settled_at is not None:
        flags.append(Flag("settled", settled_at))
    end = _end(boot, timeline.samples, settled_at)
    bands = tuple(
        Band(stage.name, stage.start, stage.end, stage.name == SIGN_IN_WAIT)
        for stage in stages_of(boot.marks, timeline.stages, settled_at)
    )
    start = min([0.0, *(flag.seconds for flag in flags), *(band.start for band in bands)])
    return LanesPage(
        start=start,
        end=end,
        flags=tuple(sorted(flags, key=lambda flag: flag.seconds)),
        bands=bands,
        strips=strips_of(timeline.samples) if timeline.samples is not None else (),
        lanes=_lanes(timeline, end, costs or {}),
        threads=_threads(boot, timeline, settled_at),
        note=_note(boot, timeline),
    )


def _end(boot: Boot, samples: Samples | None, settled: float | None) -> float:
    """Right end of the view: somewhat behind settled, or the end of what is known."""
    last = max(boot.marks.values(), default=1.0)
    if settled is not None:
        return max(settled, last) * 1.04 + 6
    return max(last * 1.06 + 1, samples.end if samples is not None else 0.0)


def _note(boot: Boot, timeline: Timeline) -> str:
    if timeline.samples is None:
        return (
            f"This boot was {boot.how}: it has "
            f"{'marks' if boot.marks else 'single figures'} but no curves and no entries."
        )
    if not timeline.activities:
        return (
            "This recording has no startup entries: the PC's service manager was not there to "
            "be asked."
        )
    return ""


def strips_of(samples: Samples) -> tuple[Strip, ...]:
    """The four resource curves of a boot."""
    if len(samples) < 2:
        return ()
    usable = rates(samples)
    disk = tuple(
        f"{busy:.0%}, {size(moved)}/s" if not isnan(busy + moved) else "unknown"
        for busy, moved in zip(usable.disk_share, usable.disk_bytes_per_second, strict=True)
    )
    total = samples.memory_total_bytes or float(samples.memory_held_bytes.max())
    memory, processes = samples.memory_held_bytes[1:], samples.processes[1:]
    most_processes = float(processes.max())
    cores = f"{samples.cores} cores" if samples.cores > 1 else "1 core"
    edges = samples.seconds
    return (
        Strip("cpu", "CPU", f"of {cores}", edges, usable.cpu_share,
              _words(usable.cpu_share * 100, "{:.0f} %")),
        Strip("disk", "Disk", "time at work", edges, usable.disk_share, disk),
        Strip("memory", "Memory", f"of {memory_size(int(total))}", edges, memory / total,
              tuple(size(value) for value in memory)),
        Strip("processes", "Processes", f"0 to {most_processes:.0f}", edges,
              processes / most_processes, _words(processes, "{:.0f}")),
    )  # fmt: skip


def _words(values: Floats, pattern: str) -> tuple[str, ...]:
    return tuple(pattern.format(value) if not isnan(value) else "unknown" for value in values)


def _threads(boot: Boot, timeline: Timeline, settled: float | None) -> tuple[Thread, ...]:
    system = frozenset(e.entry_id for e in timeline.entries if e.kind == "system service")
    ends = (("settled", settled, None), ("system up", boot.marks.get(Mark.SYSTEM_UP), system))
    shown_at, signed_in = boot.marks.get(Mark.SIGN_IN_SHOWN), boot.marks.get(Mark.SIGNED_IN)
    sign_in = (shown_at, signed_in) if shown_at is not None and signed_in is not None else None
    found = []
    for title, instant, among in ends:
        if instant is not None:
            links = chain_to(instant, timeline.activities, among, sign_in)
            if links:
                found.append(Thread(title, links, instant))
    return tuple(found)


def folded(page: LanesPage) -> LanesPage:
    """The page with the parts of the system in one lane, those on a thread left out of the fold."""
    on_thread = {link.entry_id for thread in page.threads for link in thread.links}
    parts = [lane for lane in page.lanes if lane.part_of_system and lane.entry_id not in on_thread]
    if len(parts) < 2:
        return page
    begun = [lane.starting[0] for lane in parts if lane.starting]
    ended = [lane.starting[1] for lane in parts if lane.starting]
    fold = Lane(
        entry_id="",
        name=f"{len(parts)} {FOLDED}",
        waiting=None,
        starting=(min(begun), max(ended)) if begun else None,
        running=None,
        note="",
        cost="",
        part_of_system=True,
    )
    others = [lane for lane in page.lanes if lane not in parts]
    return replace(page, lanes=(fold, *others))


def typical_boot(boots: tuple[Boot, ...], measure: Measure) -> Boot | None:
    """The boot of a round that lies closest to its balance: a real one, no average of curves."""
    balance = balance_of(measure, readings_in(boots, measure))
    having = [boot for boot in boots if boot.counts and measure in boot.readings]
    if balance is None or not having:
        return None
    return min(having, key=lambda boot: abs(boot.readings[measure].value - balance.value))


def boot_in_words(boot: Boot, others: tuple[Boot, ...]) -> str:
    """When the boot was, what kind it is, and whether it may be compared with the others."""
    parts = [day_and_time(boot.started_at)]
    if boot.how is not How.RECORDED:
        parts.append(str(boot.how))
    if boot.context.start_kind is not StartKind.UNKNOWN:
        parts.append(str(boot.context.start_kind))
    told = " · ".join(parts)
    if boot.set_aside:
        return f"{told} · set aside: {shown(boot.set_aside)}"
    found = boot_concerns(boot, others)
    if found:
        return f"{told} · better not compared: {', '.join(found)}"
    return f"{told} · may be compared"


def _lanes(timeline: Timeline, end: float, costs: Mapping[str, StartupCost]) -> tuple[Lane, ...]:
    entries = {entry.entry_id: entry for entry in timeline.entries}
    lanes = [
        _lane(entries.get(a.entry_id), a, end, costs.get(a.entry_id)) for a in timeline.activities
    ]
    order = {a.entry_id: _first(a) for a in timeline.activities}
    return tuple(sorted(lanes, key=lambda lane: order[lane.entry_id]))


def _first(activity: Activity) -> float:
    known = (activity.waiting_from, activity.starting_from, activity.up_at)
    return min((seconds for seconds in known if seconds is not None), default=float("inf"))


def _lane(
    entry: StartupEntry | None, activity: Activity, end: float, cost: StartupCost | None
) -> Lane:
    begin, up, gone = activity.starting_from, activity.up_at, activity.ended_at
    started_until = up if up is not None else gone if gone is not None else end
    note = activity.result
    if entry and entry.left_behind and begin is not None:
        note = f"left behind: {activity.result or 'its program is gone'}, at {begin:.1f} s"
    return Lane(
        entry_id=activity.entry_id,
        name=shown(entry.name if entry else activity.entry_id),
        waiting=_span(activity.waiting_from, begin),
        starting=_span(begin, started_until),
        running=_span(up, gone if gone is not None else end) if up is not None else None,
        note=shown(note),
        cost=f"{tenths(cost.settled.value)} s" if cost and cost.settled else "",
        part_of_system=bool(entry and entry.part_of_system),
    )


def _span(start: float | None, end: float | None) -> tuple[float, float] | None:
    return (start, end) if start is not None and end is not None and end >= start else None


def under_crosshair(page: LanesPage, seconds: float) -> tuple[str, ...]:
    """What all curves read at an instant, one text per strip."""
    found = []
    for strip in page.strips:
        index = int(strip.edges.searchsorted(seconds, side="right")) - 1
        if 0 <= index < len(strip.readings):
            found.append(f"{strip.title} {strip.readings[index]}")
    return tuple(found)
