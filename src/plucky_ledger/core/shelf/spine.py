"""A job in a few words, kept with it: all jobs are read without the boots of any."""

from dataclasses import dataclass, replace
from datetime import datetime
from enum import StrEnum

from plucky_ledger.core.book.balance import Balance, balances_of, staircase
from plucky_ledger.core.boots.boot import counted
from plucky_ledger.core.job.job import (
    Card,
    Job,
    last_visit,
    restart_due,
    waits_for_something,
)
from plucky_ledger.core.job.noticed import reappeared_entries
from plucky_ledger.core.values.measures import Measure

SPINE_RULE = 2
"""Number of the rule by which spines are made; those of an older one are made anew."""
TREND_BOOTS = 8
"""Boots from which on a step can be found in them."""


class ShelfState(StrEnum):
    """How far a job is."""

    RESTART_DUE = "restart_due"
    NO_BOOT = "no_boot"
    PENCILLED = "pencilled"
    IN_THE_BOOK = "in_the_book"
    OPENING_TAKEN = "opening_taken"


@dataclass(frozen=True, kw_only=True)
class Spine:
    """One job on the shelf."""

    job: int
    card: Card
    state: ShelfState
    taken_in_at: datetime
    last_visit: datetime
    """When the PC came in last."""
    new: bool
    """It has boots and nothing else: recordings came in, and nobody has written anything yet."""
    look_ups: int
    """Entries still to be looked up."""
    came_back: int
    """Entries that were switched off and started all the same."""
    turns_left: int
    """Boots that are still to be taken in turns."""
    needs_part: bool
    """The owner is advised of something that has to be bought and fitted."""
    in_work: bool
    """Something is pencilled, or posted and not seen in a boot yet."""
    measure: Measure
    """The measure its book opens in."""
    saved: float | None
    """What was saved in all in that measure, negative when lost; None when nothing was measured."""
    staircase: tuple[float, ...]
    """The balances one after the other, 0 to 1."""
    boots: int
    """How many count."""
    last_heard: datetime | None
    """When its newest boot began."""
    model: str
    """Processor and memory, by which PCs alike are found."""
    slower_by: float | None
    """How much longer it takes since the newest step in its boots, where that is one up."""
    slower_since: datetime | None
    """The first boot that was certainly after that step."""

    @property
    def due(self) -> bool:
        """Somebody has to do something at the PC now: to be told apart at a glance."""
        return bool(self.came_back) or self.state is ShelfState.RESTART_DUE

    @property
    def rank(self) -> int:
        """How soon it is its turn, 0 first."""
        waits = (self.due, bool(self.turns_left), self.new, self.state in _WAITING, True)
        return waits.index(True)


_WAITING = frozenset({ShelfState.PENCILLED, ShelfState.NO_BOOT})


def spine_of(job: Job, look_ups: int, before: Spine | None = None) -> Spine:
    """The spine of a job; what ``before`` says of the same boots is taken over."""
    measure = best_measure(job)
    balances = balances_of(job, measure)
    boots = counted(job.boots)
    last_heard = max((boot.started_at for boot in boots), default=None)
    spine = Spine(
        job=job.number,
        card=job.card,
        state=_state(job),
        taken_in_at=job.taken_in_at,
        last_visit=last_visit(job),
        new=_is_new(job, look_ups),
        look_ups=look_ups,
        came_back=len(reappeared_entries(job)),
        turns_left=_turns_left(job),
        needs_part=_needs_part(job),
        in_work=waits_for_something(job),
        measure=measure,
        saved=_saved(balances),
        staircase=staircase(balances),
        boots=len(boots),
        last_heard=last_heard,
        model=_model(job),
        slower_by=None,
        slower_since=None,
    )
    same = (spine.boots, spine.last_heard, spine.measure, spine.saved)
    if before is not None and same == (
        before.boots,
        before.last_heard,
        before.measure,
        before.saved,
    ):
        slower = before.slower_by, before.slower_since
    else:
        slower = _slower(job, measure) if len(boots) >= TREND_BOOTS else (None, None)
    return replace(spine, slower_by=slower[0], slower_since=slower[1])


def best_measure(job: Job) -> Measure:
    """The measure a job's book opens in: the first that was measured, times before the rest."""
    order = (Measure.SETTLED, Measure.READY, Measure.SYSTEM_UP, *Measure)
    return next((measure for measure in order if is_measured(job, measure)), Measure.SETTLED)


def is_measured(job: Job, measure: Measure) -> bool:
    """Whether any boot of the job has this measure."""
    return any(measure in boot.readings for boot in job.boots)


def _slower(job: Job, measure: Measure) -> tuple[float | None, datetime | None]:
    """The newest step, where it is one up; nothing where the numerics are not installed."""
    try:
        from plucky_ledger.core.trend.trend import trend_of  # few jobs have so many boots
    except ModuleNotFoundError:
        return None, None
    steps = trend_of(job, measure).steps
    if not steps or steps[-1].by <= 0:
        return None, None
    return round(steps[-1].by, 3), steps[-1].latest


def _model(job: Job) -> str:
    facts = job.facts
    memory = f"{round(facts.memory_bytes / 1e9)} GB" if facts.memory_bytes else ""
    return ", ".join(filter(None, (facts.cpu_model, memory)))


def _is_new(job: Job, look_ups: int) -> bool:
    card = job.card
    written = card.owner, card.complaint, job.postings, job.turns, job.advised, look_ups
    return bool(job.boots) and not any(written)


def _turns_left(job: Job) -> int:
    if job.turns is None:
        return 0
    from plucky_ledger.core.book.turns import turns_left  # few jobs have any: not at the start

    return turns_left(job)


def _needs_part(job: Job) -> bool:
    """Whether something has to be bought for what the owner was advised."""
    if not job.advised:
        return False
    from plucky_ledger.core.advice.rules import RULES, Effort  # few jobs have any: not at the start

    return any(RULES[one.rule].effort is Effort.PART for one in job.advised)


def _state(job: Job) -> ShelfState:
    if restart_due(job):
        return ShelfState.RESTART_DUE
    if not job.opening_boots:
        return ShelfState.NO_BOOT
    if job.pencilled:
        return ShelfState.PENCILLED
    return ShelfState.IN_THE_BOOK if job.postings else ShelfState.OPENING_TAKEN


def _saved(balances: list[Balance]) -> float | None:
    if len(balances) < 2:
        return None
    return balances[0].value - balances[-1].value
