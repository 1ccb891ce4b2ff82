"""Startup costs of a round in the ledger, and what a plan would bring. Takes a moment to make."""

import logging
import threading
import time
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import TYPE_CHECKING

from plucky_ledger.core.boots.analysis import Analysis
from plucky_ledger.core.boots.boot import Boot, starts_in
from plucky_ledger.core.entries.entry import StartupEntry
from plucky_ledger.core.entries.sources import SourceLooked
from plucky_ledger.core.entries.states import NOT_STARTED, EntryState
from plucky_ledger.core.job.entry_states import pencilled_states
from plucky_ledger.core.job.job import Job
from plucky_ledger.core.job.pc_states import states_of
from plucky_ledger.core.replay.certainty import not_known_yet
from plucky_ledger.core.replay.grades import Grade, GradeThresholds, grade_of
from plucky_ledger.core.replay.startup_cost import PlanEstimate, StartupCost, not_watched
from plucky_ledger.core.statistics.pseudo_median import pseudo_median
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.core.values.reasons import Reason, ReasonCode
from plucky_ledger.core.values.recent import Recent
from plucky_ledger.store.decisions import asides
from plucky_ledger.store.entries import typed_entries
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.jobs.jobs import read_job
from plucky_ledger.usecases.reading.analyses import Analyses

if TYPE_CHECKING:
    from plucky_ledger.core.replay.cost import RoundReplay
    from plucky_ledger.core.replay.preview import Preview

log = logging.getLogger(__name__)
KEPT_ROUNDS = 4
MOST_BOOTS = 6
"""Boots of a round that are replayed, the newest: more would not change the estimate."""


@dataclass(frozen=True, kw_only=True)
class RoundCosts:
    """What is known about the entries of one round."""

    entries: tuple[StartupEntry, ...]
    sources: tuple[SourceLooked, ...]
    """Where the newest boot was looked at for them."""
    settled_seconds: float
    """Balance of settled in machine time; 0 where nothing settled."""
    system_up_seconds: float
    """The same of system up."""
    memory_total_bytes: float
    replay: "RoundReplay"
    why_not: Reason | None
    """Why settled can be told of no boot; None when it can."""

    @cached_property
    def costs(self) -> Mapping[str, StartupCost]:
        """Startup cost of every entry. Takes a moment when first asked: a plan needs none of it."""
        by_id = {entry.entry_id: entry for entry in self.entries}
        begun = time.monotonic()
        costs = self.replay.cost_of(list(by_id))
        log.info("costs of %d entries: %.2f s", len(costs), time.monotonic() - begun)
        return {
            cost.entry_id: _explained(
                cost, by_id[cost.entry_id], self.why_not, self.settled_seconds
            )
            for cost in costs
        }

    def grade(self, entry: StartupEntry, thresholds: GradeThresholds) -> Grade:
        """Grade of an entry."""
        cost = self.costs.get(entry.entry_id)
        if cost is None:
            return Grade.UNGRADED
        return grade_of(
            cost,
            self.settled_seconds,
            self.memory_total_bytes,
            thresholds,
            self.system_up_seconds,
        )

    def plan(self, states: Mapping[str, EntryState]) -> PlanEstimate | None:
        """What setting entries so would bring; entries never seen at work change nothing."""
        plan = self.replay.plan(*self._no_longer(states))
        return plan and plan.from_balances(self.settled_seconds, self.system_up_seconds)

    def preview(self, states: Mapping[str, EntryState], boot: Boot) -> "Preview | None":
        """One boot of the round as it is expected with entries set so."""
        off, later = self._no_longer(states)
        return self.replay.preview(boot.uuid, off | later)

    def _no_longer(self, states: Mapping[str, EntryState]) -> tuple[frozenset[str], frozenset[str]]:
        """Entries that are off then, and that start later."""
        seen = self.replay.entry_ids - self.replay.carries_sign_in
        off = frozenset(e for e, state in states.items() if state in NOT_STARTED and e in seen)
        later = frozenset(
            e for e, state in states.items() if state is EntryState.LATER and e in seen
        )
        return off, later


@dataclass(frozen=True)
class _Key:
    """Everything the costs of a round depend on."""

    job: int
    boots: tuple[Boot, ...]
    typed: tuple[StartupEntry, ...]
    aside: Mapping[str, str]


class CostsKept:
    """Costs of the rounds looked at last. May be asked from several threads."""

    def __init__(self, analyses: Analyses) -> None:
        self.analyses = analyses
        self._lock = threading.Lock()
        self._kept: Recent[tuple[int, tuple[str, ...]], tuple[_Key, RoundCosts]] = Recent(
            KEPT_ROUNDS
        )
        """By the job and the names of the boots, with all that the costs depend on."""

    def of(self, ledger: Ledger, job: int, boots: Sequence[Boot]) -> RoundCosts:
        """Costs of a round, made ready where they are not known; takes a moment then."""
        with ledger.session() as session:
            key = _Key(job, tuple(boots), typed_entries(session, job), asides(session, job))
        with self._lock:
            named = job, tuple(boot.uuid for boot in boots)
            cached = self._kept.get(named)
            if cached is None or cached[0] != key:
                newest = boots[-MOST_BOOTS:]
                analyses = [self.analyses.of(ledger, job, boot) for boot in newest]
                cached = self._kept.keep(named, (key, round_costs(boots, analyses, key.typed)))
                log.info("boots of job %d made ready to be replayed: %d", job, len(newest))
            return cached[1]

    def expected(self, ledger: Ledger, number: int) -> PlanEstimate | None:
        """What a job's pencilled changes would bring to the PC as it is now.

        From the boots of its state, or where that has none yet, of the last that was recorded.

        None without any of either.
        """
        job = read_job(ledger, number)
        states = pencilled_states(job)
        boots = newest_state(job)
        if not states or not boots:
            return None
        return self.of(ledger, number, boots).plan(states)

    def preview(self, ledger: Ledger, job: Job, boot: Boot) -> "Preview | None":
        """A boot of the state that a job's PC is in, as what is pencilled would make it.

        None for any other boot, and where nothing is pencilled.
        """
        states, boots = pencilled_states(job), newest_state(job)
        if not states or all(boot.uuid != other.uuid for other in boots):
            return None
        return self.of(ledger, job.number, boots).preview(states, boot)


def newest_state(job: Job) -> tuple[Boot, ...]:
    """Boots of the state the PC is in, or of the last that has any."""
    states = states_of(job)
    return next(
        (
            boots
            for index in reversed(range(len(job.rounds)))
            if starts_in(boots := states.boots(job, index))
        ),
        (),
    )


def round_costs(
    boots: Sequence[Boot], analyses: Sequence[Analysis], typed: Iterable[StartupEntry] = ()
) -> RoundCosts:
    """Make a round ready to be asked what its entries cost.

    ``analyses`` are those of the boots that are replayed, ``typed`` the entries typed in.
    """
    from plucky_ledger.core.replay.cost import RoundReplay

    recorded = [analysis for analysis in analyses if analysis.timeline.samples is not None]
    replay = RoundReplay(recorded)
    why_not = replay.why_not
    if not recorded and boots:
        why_not = not_watched("|".join(sorted({boot.how for boot in boots})))
    samples = [
        analysis.timeline.samples for analysis in recorded if analysis.timeline.samples is not None
    ]
    return RoundCosts(
        entries=_entries(analyses, typed),
        sources=analyses[-1].timeline.sources if analyses else (),
        settled_seconds=_typical(boots, Measure.SETTLED),
        system_up_seconds=_typical(boots, Measure.SYSTEM_UP),
        memory_total_bytes=max((sampled.memory_total_bytes for sampled in samples), default=0.0),
        replay=replay,
        why_not=why_not,
    )


def _typical(boots: Sequence[Boot], measure: Measure) -> float:
    """Typical reading of the boots that count; 0 where none has one."""
    values = [
        boot.readings[measure].value for boot in boots if boot.counts and measure in boot.readings
    ]
    return pseudo_median(values) if values else 0.0


def _entries(
    analyses: Sequence[Analysis], typed: Iterable[StartupEntry]
) -> tuple[StartupEntry, ...]:
    """Every entry of any of the boots, as the newest tells of it, and those typed in."""
    by_id = {entry.entry_id: entry for entry in typed}
    for analysis in analyses:
        by_id.update({entry.entry_id: entry for entry in analysis.timeline.entries})
    return tuple(by_id.values())


def _explained(
    cost: StartupCost, entry: StartupEntry, why_not: Reason | None, settled_seconds: float
) -> StartupCost:
    """The reason why an entry has no grade, as precise as the entry itself tells it."""
    if cost.settled is not None:
        return replace(cost, no_grade=not_known_yet(cost, settled_seconds, GradeThresholds()))
    if cost.boots or (cost.no_grade and cost.no_grade.code is ReasonCode.CARRIES_SIGN_IN):
        return cost
    if entry.left_behind:
        return replace(cost, no_grade=Reason(ReasonCode.PROGRAM_GONE))
    if entry.off_because is not None:
        off = entry.off_because
        facts = {"why": off.code.value, **off.facts}
        return replace(cost, no_grade=Reason(ReasonCode.DOES_NOT_START, facts))
    return replace(cost, no_grade=why_not) if why_not is not None else cost
