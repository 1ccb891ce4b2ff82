"""Startup costs of a round in the ledger, and what a plan would bring. Takes a moment to make."""

import threading
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

from plucky_ledger.core.book.balance import pseudo_median
from plucky_ledger.core.book.job import EntryState, Job
from plucky_ledger.core.boots.boot import Boot, StartupEntry, counted
from plucky_ledger.core.cost.cost import (
    CARRIES_SIGN_IN,
    Grade,
    GradeThresholds,
    PlanEstimate,
    RecordedTimes,
    RoundReplay,
    StartupCost,
    grade_of,
)
from plucky_ledger.core.measures import Measure
from plucky_ledger.store import entries as stored
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.boots import recorded_boot

KEPT_ROUNDS = 4
MOST_BOOTS = 6
"""Boots of a round that are replayed, the newest: more would not change the estimate."""


@dataclass(frozen=True)
class RoundCosts:
    """What is known about the entries of one round."""

    boots: tuple[int, ...]
    """Numbers of the boots it was made from; they tell whether it is still good."""
    entries: tuple[StartupEntry, ...]
    costs: Mapping[str, StartupCost]
    settled_seconds: float
    """Balance of settled in machine time; 0 where nothing settled."""
    memory_total_bytes: float
    replay: RoundReplay

    def grade(self, entry: StartupEntry, thresholds: GradeThresholds) -> Grade:
        """Grade of an entry."""
        cost = self.costs.get(entry.entry_id)
        if cost is None:
            return Grade.UNGRADED
        return grade_of(cost, self.settled_seconds, self.memory_total_bytes, thresholds)

    def plan(self, states: Mapping[str, EntryState]) -> PlanEstimate | None:
        """What setting entries so would bring; those nobody saw at work change nothing."""
        seen = self.replay.entry_ids - self.replay.carries_sign_in
        off = frozenset(e for e, state in states.items() if state is EntryState.OFF and e in seen)
        later = frozenset(
            e for e, state in states.items() if state is EntryState.LATER and e in seen
        )
        return self.replay.plan(off, later)


class CostsKept:
    """Costs of the rounds looked at last. May be asked from several threads."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._kept: list[tuple[_Key, RoundCosts]] = []

    def of(self, ledger: Ledger, job: int, boots: Sequence[Boot]) -> RoundCosts:
        """Costs of a round, worked out where they are not known; takes a moment then."""
        key = _Key(job, tuple(boots), stored.typed_entries(ledger, job), stored.asides(ledger, job))
        with self._lock:
            known = next((costs for other, costs in self._kept if other == key), None)
            if known is None:
                known = round_costs(ledger, job, boots)
                self._kept = [(key, known), *self._kept][:KEPT_ROUNDS]
            return known


@dataclass(frozen=True)
class _Key:
    """Everything the costs of a round depend on."""

    job: int
    boots: tuple[Boot, ...]
    typed: tuple[StartupEntry, ...]
    aside: Mapping[str, str]


def expected_of(ledger: Ledger, job: Job, kept: CostsKept) -> PlanEstimate | None:
    """What the pencilled changes would bring, from the round measured last; None without any."""
    states = pencilled_states(job)
    last_round = next((boots for boots in reversed(job.rounds) if counted(boots)), ())
    if not states or not last_round:
        return None
    return kept.of(ledger, job.number, last_round).plan(states)


def pencilled_states(job: Job) -> dict[str, EntryState]:
    """How entries are to be set by what is pencilled."""
    return {
        change.entry_id: change.new_state
        for change in (job.pencilled.changes if job.pencilled else ())
        if change.entry_id and change.new_state
    }


def round_costs(ledger: Ledger, job: int, boots: Sequence[Boot]) -> RoundCosts:
    """Work out the cost of every entry of a round."""
    recorded = [
        RecordedTimes(boot, found.timeline)
        for boot in boots[-MOST_BOOTS:]
        if (found := recorded_boot(ledger, boot)) is not None
    ]
    replay = RoundReplay(recorded, frozenset(stored.asides(ledger, job)))
    if not recorded and boots:
        how = ", ".join(sorted({str(boot.how) for boot in boots}))
        replay.why_not = f"no program was watched: the boots were {how}"
    entries = _entries(recorded, stored.typed_entries(ledger, job))
    costs = replay.cost_of([entry.entry_id for entry in entries])
    settled = [
        boot.readings[Measure.SETTLED].value
        for boot in boots
        if boot.counts and Measure.SETTLED in boot.readings
    ]
    return RoundCosts(
        boots=tuple(boot.number for boot in boots),
        entries=entries,
        costs={cost.entry_id: _explained(cost, entries) for cost in costs},
        settled_seconds=pseudo_median(settled) if settled else 0.0,
        memory_total_bytes=max(
            (one.timeline.samples.memory_total_bytes for one in recorded if one.timeline.samples),
            default=0.0,
        ),
        replay=replay,
    )


def _entries(
    recorded: Sequence[RecordedTimes], typed: Iterable[StartupEntry]
) -> tuple[StartupEntry, ...]:
    """Every entry of any of the boots, as the newest tells of it, and those typed in."""
    found = {entry.entry_id: entry for entry in typed}
    for one in recorded:
        found.update({entry.entry_id: entry for entry in one.timeline.entries})
    return tuple(found.values())


def _explained(cost: StartupCost, entries: Sequence[StartupEntry]) -> StartupCost:
    """The reason why an entry has no grade, as precise as the entry itself tells it."""
    entry = next(one for one in entries if one.entry_id == cost.entry_id)
    if cost.settled is not None or cost.no_grade == CARRIES_SIGN_IN:
        return cost
    if entry.left_behind:
        return replace(cost, no_grade="never seen running: its program is gone")
    if entry.off_because:
        return replace(cost, no_grade=f"does not start: {entry.off_because}")
    return cost
