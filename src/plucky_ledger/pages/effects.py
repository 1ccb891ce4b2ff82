"""Which change did it: one row a change, those that cannot be told apart together."""

from collections.abc import Mapping
from dataclasses import dataclass

from plucky_ledger.core.book.effects import Effect, effects_of
from plucky_ledger.core.book.turns import changes_to
from plucky_ledger.core.entries.states import STARTED
from plucky_ledger.core.job.changes import Change
from plucky_ledger.core.job.job import Job, State
from plucky_ledger.core.replay.startup_cost import StartupCost
from plucky_ledger.core.values.axes import Span
from plucky_ledger.core.values.estimates import Estimate
from plucky_ledger.core.values.measures import Measure


@dataclass(frozen=True, kw_only=True)
class EffectsPage:
    """Everything the view shows."""

    measure: Measure
    rows: tuple[Effect, ...]
    """Those that cannot be told apart follow each other."""
    brackets: tuple[tuple[int, int], ...]
    """First and last row of those that cannot be told apart."""
    boots: int
    """All boots it rests on."""
    span: Span | None
    """Ends of the axis the intervals share; zero lies within."""
    next_state: State | None
    next_changes: tuple[Change, ...]
    """What leads there; empty where the PC is there already."""
    restarts_left: int | None


def effects_page(job: Job, measure: Measure) -> EffectsPage:
    """The effects of a job's changes; takes a moment the first time."""
    found = effects_of(job, measure)
    groups: list[tuple[Effect, ...]] = []
    placed: set[int] = set()
    for place, effect in enumerate(found.effects):
        if place not in placed:
            together = (place, *effect.tangled)
            placed.update(together)
            groups.append(tuple(found.effects[other] for other in together))
    brackets, at = [], 0
    for group in groups:
        if len(group) > 1 or group[0].value is None:
            brackets.append((at, at + len(group) - 1))
        at += len(group)
    rows = tuple(effect for group in groups for effect in group)
    state = found.next_state
    return EffectsPage(
        measure=measure,
        rows=rows,
        brackets=tuple(brackets),
        boots=found.boots,
        span=_span(rows),
        next_state=state,
        next_changes=changes_to(job, state) if state is not None else (),
        restarts_left=found.restarts_left,
    )


def replayed(effect: Effect, measure: Measure, costs: Mapping[str, StartupCost]) -> Estimate | None:
    """What the replay of the opening expects an entry's change to do; None where it tells nothing.

    Like the effect, with the change against without it: what is won is negative.
    """
    change = effect.factor.change
    if change is None or change.new_state is None or change.new_state in STARTED:
        return None
    cost = costs.get(change.entry_id)
    estimates = {Measure.SETTLED: cost and cost.settled, Measure.SYSTEM_UP: cost and cost.system_up}
    seconds = estimates.get(measure)
    return Estimate(-seconds.value, -seconds.high, -seconds.low) if seconds else None


def _span(rows: tuple[Effect, ...]) -> Span | None:
    ends = [end for row in rows for end in (row.value, row.low, row.high) if end is not None]
    if not ends:
        return None
    low, high = min(0.0, *ends), max(0.0, *ends)
    air = max(0.1, (high - low) * 0.06)
    return (low - air, high + air)
