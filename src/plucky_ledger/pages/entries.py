"""The Entries lens: what starts by itself, what it costs, what is decided, what is expected."""

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from typing import TYPE_CHECKING

from plucky_ledger.core.book.learned import together
from plucky_ledger.core.book.plans import widened, width_factor
from plucky_ledger.core.boots.boot import Boot
from plucky_ledger.core.boots.owner_use import NOTHING
from plucky_ledger.core.entries.decisions import Decided, Decision
from plucky_ledger.core.entries.entry import EntryOwner, StartupEntry
from plucky_ledger.core.entries.hints import Hint
from plucky_ledger.core.entries.kinds import KINDS, Family
from plucky_ledger.core.entries.sources import SourceLooked
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.job.entry_states import pencilled_states
from plucky_ledger.core.job.noticed import ENTRY, reappeared_entries
from plucky_ledger.core.replay.grades import Grade, GradeThresholds
from plucky_ledger.core.replay.startup_cost import PlanEstimate, StartupCost
from plucky_ledger.core.shelf.lessons import Elsewhere
from plucky_ledger.core.values.alphabet import in_alphabet
from plucky_ledger.core.values.estimates import Estimate
from plucky_ledger.core.values.reasons import Reason, ReasonCode
from plucky_ledger.usecases.jobs.jobs import read_job
from plucky_ledger.usecases.jobs.opening import Ledger
from plucky_ledger.usecases.reading.elsewhere import WorkshopMemory
from plucky_ledger.usecases.reading.entries import job_with_decisions, typed_in
from plucky_ledger.usecases.reading.grades import thresholds
from plucky_ledger.usecases.reading.hints import hints_about
from plucky_ledger.usecases.reading.learned import LearnedElsewhere, known_elsewhere

if TYPE_CHECKING:
    from plucky_ledger.usecases.reading.analyses import Analyses
    from plucky_ledger.usecases.reading.costs import CostsKept, RoundCosts


class OwnerChoice(StrEnum):
    """Whose entries are looked at."""

    ANY = "any"
    USER = "user"
    SYSTEM = "system"


class DecidedChoice(StrEnum):
    """Which entries are looked at, by what was decided."""

    ANY = "any"
    NOT_DECIDED = "not_decided"
    DECIDED = "decided"
    PENCILLED = "pencilled"
    LOOK_UP = "look_up"
    CAME_BACK = "came_back"


@dataclass(frozen=True, kw_only=True)
class EntryRow:
    """One startup entry."""

    entry: StartupEntry
    grade: Grade
    cost: StartupCost
    share_of_settled: float | None
    """0 to 1; None where it has no figure in seconds."""
    decided: Decided | None
    """None while undecided."""
    pencilled: bool
    """The change that follows from the decision is still to be made."""
    hints: tuple[Hint, ...]
    elsewhere: Elsewhere
    """What other jobs taught."""
    other_workshops: tuple[LearnedElsewhere, ...] = ()
    """What others told of it: shown apart, and nothing is done by it."""
    together: Estimate | None = None
    """How much later PCs settle with it, their PCs counted for a part of one's own; None where that
    says no more than either."""
    came_back: Reason | None = None
    """It was switched off and started all the same; None where it did not."""


@dataclass(frozen=True, kw_only=True)
class EntriesPage:
    """Everything the lens shows, the costliest entry first."""

    rows: tuple[EntryRow, ...]
    system_rows: tuple[EntryRow, ...]
    """Parts of the system, folded away at first."""
    most_seconds: float
    """Where the bars' common axis ends."""
    thresholds: GradeThresholds
    pencilled: Mapping[EntryState, int]
    """How many entries are to be set how."""
    plan: PlanEstimate | None
    """What the plan is expected to bring; None when nothing is pencilled, or it is unknown."""
    plans_held: tuple[int, int]
    """How many plans of this workshop held, of how many that were measured."""
    why_not: Reason | None
    """Why nothing can be worked out; None when it can."""
    pending: bool = False
    """What the entries cost is being worked out."""
    looked: tuple[SourceLooked, ...] = ()
    """Where was looked for them besides the service managers; empty where nobody tells."""


def entries_at_once(
    ledger: Ledger,
    number: int,
    boots: tuple[Boot, ...],
    analyses: "Analyses",
    memory: WorkshopMemory,
) -> EntriesPage:
    """The entries of a round by their names, while their costs are being worked out."""
    by_id = {entry.entry_id: entry for entry in typed_in(ledger, number)}
    looked: tuple[SourceLooked, ...] = ()
    if boots:
        timeline = analyses.of(ledger, number, boots[-1]).timeline
        by_id.update({entry.entry_id: entry for entry in timeline.entries})
        looked = timeline.sources
    why = Reason(ReasonCode.BEING_WORKED_OUT)
    page = entries_without_costs(ledger, number, by_id.values(), memory, why)
    return replace(page, looked=looked)


def entries_without_costs(
    ledger: Ledger,
    number: int,
    listed: Iterable[StartupEntry],
    memory: WorkshopMemory,
    why: Reason,
) -> EntriesPage:
    """Some entries of a job by their names without costs, and why there are none."""
    entries = sorted(listed, key=lambda entry: in_alphabet(entry.name))
    pending = why.code is ReasonCode.BEING_WORKED_OUT
    rows = _rows(
        ledger,
        number,
        entries,
        memory,
        {
            e.entry_id: StartupCost(
                entry_id=e.entry_id,
                settled=None,
                system_up=None,
                use=NOTHING,
                per_boot=(),
                boots=0,
                no_grade=why,
            )
            for e in entries
        },
        lambda _entry: (Grade.UNGRADED, None),
    )
    return _page(ledger, number, rows, None, memory, None if pending else why, pending=pending)


def entries_page(
    ledger: Ledger,
    number: int,
    boots: tuple[Boot, ...],
    kept: "CostsKept",
    memory: WorkshopMemory,
) -> EntriesPage:
    """Everything about the entries of a round of a job; takes a moment where costs are not kept."""
    costs = kept.of(ledger, number, boots)
    levels = thresholds(ledger)
    ordered = sorted(costs.entries, key=lambda entry: _costliest_first(costs.costs[entry.entry_id]))
    rows = _rows(
        ledger,
        number,
        ordered,
        memory,
        costs.costs,
        lambda entry: (costs.grade(entry, levels), _share(costs, entry)),
        _later_work(boots),
    )
    page = _page(ledger, number, rows, kept, memory, costs.why_not)
    return replace(page, looked=costs.sources)


def _rows(
    ledger: Ledger,
    number: int,
    entries: Sequence[StartupEntry],
    memory: WorkshopMemory,
    costs: Mapping[str, StartupCost],
    graded: Callable[[StartupEntry], tuple[Grade, float | None]],
    later: Mapping[str, float] = {},
) -> list[EntryRow]:
    job, decided = job_with_decisions(ledger, number)
    back = {str(reason.facts[ENTRY]): reason for reason in reappeared_entries(job)}
    pencilled = pencilled_states(job)
    hints = hints_about(entries)
    on_other_jobs = memory.elsewhere(ledger, [entry.identity for entry in entries], number)
    told = known_elsewhere(
        memory.others(ledger), {entry.entry_id: entry.identity for entry in entries}
    )
    return [
        EntryRow(
            entry=entry,
            grade=grade,
            cost=_cost(
                costs[entry.entry_id], decided.get(entry.entry_id), later.get(entry.entry_id)
            ),
            share_of_settled=share,
            decided=decided.get(entry.entry_id),
            pencilled=entry.entry_id in pencilled,
            hints=hints.get(entry.entry_id, ()),
            elsewhere=elsewhere,
            other_workshops=told.get(entry.entry_id, ()),
            together=_together(elsewhere, told.get(entry.entry_id, ())),
            came_back=back.get(entry.entry_id),
        )
        for entry in entries
        for grade, share in [graded(entry)]
        for elsewhere in [on_other_jobs[entry.identity]]
    ]


def _together(elsewhere: Elsewhere, told: Sequence[LearnedElsewhere]) -> Estimate | None:
    return together(elsewhere.saved_seconds, [one.program for one in told])


def _page(
    ledger: Ledger,
    number: int,
    rows: Sequence[EntryRow],
    kept: "CostsKept | None",
    memory: WorkshopMemory,
    why_not: Reason | None,
    pending: bool = False,
) -> EntriesPage:
    """The page of some rows; with ``kept`` it tells what the plan would bring."""
    pencilled = pencilled_states(read_job(ledger, number))
    highs = [row.cost.settled.high for row in rows if row.cost.settled is not None]
    states = list(pencilled.values())
    plan = kept.expected(ledger, number) if pencilled and kept is not None else None
    past = memory.plans(ledger)
    return EntriesPage(
        rows=tuple(row for row in rows if not row.entry.part_of_system),
        system_rows=tuple(row for row in rows if row.entry.part_of_system),
        most_seconds=max([1.0, *highs]),
        thresholds=thresholds(ledger),
        pencilled={state: states.count(state) for state in EntryState if state in states},
        plan=plan and widened(plan, width_factor(past)),
        plans_held=(sum(one.held for one in past), len(past)),
        why_not=why_not,
        pending=pending,
    )


def _later_work(boots: Sequence[Boot]) -> dict[str, float]:
    """CPU seconds that entries worked after settled, by the newest boot that was looked at on."""
    looked = [boot for boot in boots if boot.counts and boot.context.looked_seconds]
    return {
        one.entry_id: one.later_cpu_seconds
        for boot in looked[-1:]
        for one in boot.context.worked
        if one.later_cpu_seconds
    }


def _cost(
    cost: StartupCost, decided: Decided | None, later_cpu_seconds: float | None
) -> StartupCost:
    later = decided is not None and decided.decision is Decision.LATER
    pending = cost.no_grade is not None and cost.no_grade.code is ReasonCode.BEING_WORKED_OUT
    if later and not cost.boots and not pending:
        why = Reason(ReasonCode.STARTS_TOO_LATE)
        if later_cpu_seconds:
            why = Reason.of(ReasonCode.WORKS_LATER, cpu_seconds=later_cpu_seconds)
        return replace(cost, no_grade=why)
    return cost


def _share(costs: "RoundCosts", entry: StartupEntry) -> float | None:
    settled = costs.costs[entry.entry_id].settled
    if settled is None or costs.settled_seconds <= 0:
        return None
    return max(0.0, settled.value) / costs.settled_seconds


def _costliest_first(cost: StartupCost) -> tuple[float, float, str]:
    estimate = cost.settled if cost.settled is not None else cost.system_up
    seconds = estimate.value if estimate is not None else -1e9
    return (-round(seconds, 1), -cost.use.memory_bytes, cost.entry_id)


def fits(
    row: EntryRow,
    kind: Family = Family.ANY,
    owner: OwnerChoice = OwnerChoice.ANY,
    decided: DecidedChoice = DecidedChoice.ANY,
) -> bool:
    """Whether a row is of what is looked at."""
    return (
        kind in {Family.ANY, KINDS[row.entry.kind].family}
        and (owner is OwnerChoice.ANY or row.entry.owner is _OWNERS[owner])
        and decided in {DecidedChoice.ANY, *_decided_as(row)}
    )


_OWNERS = {OwnerChoice.USER: EntryOwner.USER, OwnerChoice.SYSTEM: EntryOwner.SYSTEM}


def _decided_as(row: EntryRow) -> set[DecidedChoice]:
    if row.decided is None:
        return {DecidedChoice.NOT_DECIDED}
    if row.came_back is not None:
        return {DecidedChoice.DECIDED, DecidedChoice.CAME_BACK}
    choices = {DecidedChoice.DECIDED}
    if row.pencilled:
        choices.add(DecidedChoice.PENCILLED)
    if row.decided.decision is Decision.LOOK_UP:
        choices.add(DecidedChoice.LOOK_UP)
    return choices
