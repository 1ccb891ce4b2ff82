"""The Lanes lens: one boot as voices, one lane for each entry."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum

from plucky_ledger.core.book.balance import balance_of
from plucky_ledger.core.boots.analysis import Analysis
from plucky_ledger.core.boots.boot import Boot
from plucky_ledger.core.boots.chain import ChainLink, chain_to
from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.core.boots.programs import ProgramRun
from plucky_ledger.core.boots.samples import Samples
from plucky_ledger.core.boots.stages import Stage, stages_of
from plucky_ledger.core.boots.timeline import Activity, Timeline
from plucky_ledger.core.entries.decisions import Decision
from plucky_ledger.core.entries.entry import StartupEntry
from plucky_ledger.core.entries.kinds import OF_THE_SYSTEM
from plucky_ledger.core.job.entry_states import pencilled_states
from plucky_ledger.core.job.job import Job, readings_in
from plucky_ledger.core.replay.startup_cost import StartupCost
from plucky_ledger.core.replay.voices import Voice, Voices
from plucky_ledger.core.values.estimates import Estimate
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.core.values.reasons import Reason
from plucky_ledger.pages.curves import Strip, strips_of
from plucky_ledger.usecases.jobs.opening import Ledger
from plucky_ledger.usecases.reading.costs import CostsKept
from plucky_ledger.usecases.reading.entries import job_with_decisions

FLAGGED = (
    Mark.POWER_ON,
    Mark.SYSTEM_UP,
    Mark.SIGN_IN_SHOWN,
    Mark.SIGNED_IN,
    Mark.DESKTOP_SHOWN,
    Mark.READY,
)
ORDERED_SLACK_SECONDS = 0.5
"""An entry that begins so soon after one it is ordered after was up had waited for it."""


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


@dataclass(frozen=True, kw_only=True)
class Lane:
    """One startup entry."""

    entry: StartupEntry | None
    """None where the list of entries does not have it."""
    entry_id: str
    name: str
    """As the PC calls it."""
    waiting: tuple[float, float] | None
    ordered: bool
    """It waited for another to be up; otherwise for the clock."""
    starting: tuple[float, float] | None
    running: tuple[float, float] | None
    result: Reason | None
    """What went wrong."""
    left_behind_at: float | None
    """When it was asked to start although its program is gone."""
    cost: Estimate | None
    """Seconds it delays settled by, or system up where it never settled; None where nobody
    knows."""
    voice: Voice | None
    """What it did over time; None where it was not sampled, or it did nothing."""
    decision: Decision | None
    pencilled: bool
    """The change that follows from the decision is still to be made."""

    @property
    def part_of_system(self) -> bool:
        """Whether it belongs to the system itself."""
        return bool(self.entry and self.entry.part_of_system)

    @property
    def first_work(self) -> float:
        """When it was first heard of; infinite where never."""
        spans = [span[0] for span in (self.waiting, self.starting, self.running) if span]
        return min(spans, default=float("inf"))


@dataclass(frozen=True)
class ChainLine:
    """The chain as a thread through the lanes."""

    mark: Mark
    """The mark it held up."""
    links: tuple[ChainLink, ...]
    until: float


@dataclass(frozen=True)
class LaneFacts:
    """What the ledger knows of a job's entries."""

    costs: Mapping[str, StartupCost] = field(default_factory=dict)
    decisions: Mapping[str, Decision] = field(default_factory=dict)
    pencilled: frozenset[str] = frozenset()
    """Entries whose change is still to be made."""


NO_FACTS = LaneFacts()


@dataclass(frozen=True, kw_only=True)
class LanesPage:
    """Everything the lens shows of one boot. Seconds since the kernel started."""

    boot: Boot
    start: float
    end: float
    flags: tuple[Flag, ...]
    stages: tuple[Stage, ...]
    strips: tuple[Strip, ...]
    """What the machine as a whole was using."""
    voices: Voices | None
    lanes: tuple[Lane, ...]
    chain: ChainLine | None
    """What held up settled, or system up where it never settled."""
    lacks: Lacks

    @property
    def settled(self) -> float | None:
        """When it settled."""
        flags = (flag.seconds for flag in self.flags if flag.mark is Mark.SETTLED)
        return next(flags, None)


def lane_facts(ledger: Ledger, job: Job, boots: tuple[Boot, ...], kept: CostsKept) -> LaneFacts:
    """What the ledger knows of the entries of a round; takes a moment where costs are not kept."""
    costs = kept.of(ledger, job.number, boots).costs if boots else {}
    _, decided = job_with_decisions(ledger, job.number)
    return LaneFacts(
        costs,
        {entry_id: one.decision for entry_id, one in decided.items()},
        frozenset(pencilled_states(job)),
    )


def lanes_page(
    analysis: Analysis, voices: Voices | None = None, facts: LaneFacts = NO_FACTS
) -> LanesPage:
    """The lanes of one boot in the order of their first work; a boot timed by hand has marks and
    stages only.
    """
    boot, timeline, settled_at = analysis.boot, analysis.timeline, analysis.settled_at
    flags = [Flag(mark, boot.marks[mark]) for mark in FLAGGED if mark in boot.marks]
    if settled_at is not None:
        flags.append(Flag(Mark.SETTLED, settled_at))
    end = _end(boot, analysis.samples, settled_at)
    stages = stages_of(boot.marks, timeline.stages, settled_at) if boot.is_start else ()
    return LanesPage(
        boot=boot,
        start=_start(analysis, flags, stages),
        end=end,
        flags=tuple(sorted(flags, key=lambda flag: flag.seconds)),
        stages=stages,
        strips=strips_of(analysis.samples) if analysis.samples is not None else (),
        voices=voices,
        lanes=_lanes(timeline, end, voices, facts, _only_by_programs(analysis) if voices else ()),
        chain=_chain(boot, timeline, settled_at),
        lacks=_lacks(boot, timeline),
    )


def _start(analysis: Analysis, flags: Iterable[Flag], stages: Iterable[Stage]) -> float:
    """Left end of the view: power on or the kernel's start; what was seen of a reading at rest."""
    if not analysis.boot.is_start and analysis.samples is not None:
        return float(analysis.samples.seconds[0])
    return min([0.0, *(flag.seconds for flag in flags), *(stage.start for stage in stages)])


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


def _chain(boot: Boot, timeline: Timeline, settled: float | None) -> ChainLine | None:
    services = frozenset(
        entry.entry_id for entry in timeline.entries if entry.kind in OF_THE_SYSTEM
    )
    ends = (
        (Mark.SETTLED, settled, None),
        (Mark.SYSTEM_UP, boot.marks.get(Mark.SYSTEM_UP), services),
    )
    shown_at, signed_in = boot.marks.get(Mark.SIGN_IN_SHOWN), boot.marks.get(Mark.SIGNED_IN)
    sign_in = (shown_at, signed_in) if shown_at is not None and signed_in is not None else None
    for mark, instant, among in ends:
        if instant is not None:
            links = chain_to(instant, timeline.activities, among, sign_in)
            if links:
                return ChainLine(mark, links, instant)
    return None


def typical_boot(boots: tuple[Boot, ...], measure: Measure) -> Boot | None:
    """The boot of a round that lies closest to its balance: a real one, no average of curves."""
    balance = balance_of(measure, readings_in(boots, measure))
    having = [boot for boot in boots if boot.counts and measure in boot.readings]
    if balance is None or not having:
        return None
    return min(having, key=lambda boot: abs(boot.readings[measure].value - balance.value))


def _only_by_programs(analysis: Analysis) -> tuple[Activity, ...]:
    """What entries did of which nobody tells but the programs that are theirs, such as those of
    lines in files.
    """
    told = {activity.entry_id for activity in analysis.timeline.activities}
    if analysis.attribution is None:
        return ()
    owners = analysis.attribution.owners
    by_entry: dict[str, list[ProgramRun]] = {}
    for run in analysis.timeline.runs:
        entry_id = owners[run.run].entry_id
        if entry_id and entry_id not in told:
            by_entry.setdefault(entry_id, []).append(run)
    return tuple(_activity_of(entry_id, runs) for entry_id, runs in by_entry.items())


def _activity_of(entry_id: str, runs: Sequence[ProgramRun]) -> Activity:
    begin = min(run.started for run in runs)
    ends = [run.ended for run in runs if run.ended is not None]
    ended = max(ends) if len(ends) == len(runs) else None
    return Activity(entry_id=entry_id, starting_from=begin, up_at=begin, ended_at=ended)


def _lanes(
    timeline: Timeline,
    end: float,
    voices: Voices | None,
    facts: LaneFacts,
    more: Iterable[Activity] = (),
) -> tuple[Lane, ...]:
    entries = {entry.entry_id: entry for entry in timeline.entries}
    up = {activity.entry_id: activity.up_at for activity in timeline.activities}
    lanes = [
        _lane(entries.get(activity.entry_id), activity, up, end, voices, facts)
        for activity in (*timeline.activities, *more)
    ]
    return tuple(sorted(lanes, key=lambda lane: lane.first_work))


def _lane(
    entry: StartupEntry | None,
    activity: Activity,
    up_of: Mapping[str, float | None],
    end: float,
    voices: Voices | None,
    facts: LaneFacts,
) -> Lane:
    begin, up, gone = activity.starting_from, activity.up_at, activity.ended_at
    started_until = up if up is not None else gone if gone is not None else end
    name, cost = activity.entry_id, facts.costs.get(activity.entry_id)
    return Lane(
        entry=entry,
        entry_id=name,
        name=entry.name if entry else name,
        waiting=_span(activity.waiting_from, begin),
        ordered=_was_ordered(activity, up_of),
        starting=_span(begin, started_until),
        running=_span(up, gone if gone is not None else end) if up is not None else None,
        result=activity.result,
        left_behind_at=begin if entry and entry.left_behind else None,
        cost=cost.settled or cost.system_up if cost else None,
        voice=voices.of.get(name) if voices else None,
        decision=facts.decisions.get(name),
        pencilled=name in facts.pencilled,
    )


def _was_ordered(activity: Activity, up_of: Mapping[str, float | None]) -> bool:
    begin = activity.starting_from
    ups = (up_of.get(name) for name in activity.after)
    return begin is not None and any(
        up is not None and abs(begin - up) <= ORDERED_SLACK_SECONDS for up in ups
    )


def _span(start: float | None, end: float | None) -> tuple[float, float] | None:
    return (start, end) if start is not None and end is not None and end >= start else None
