"""The job shelf: every job as a ledger spine."""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum

from plucky_ledger.core.book.balance import Balance, balances_of, staircase
from plucky_ledger.core.job.job import Card, Job, last_visit, restart_due
from plucky_ledger.core.job.noticed import reappeared_entries
from plucky_ledger.core.values.alphabet import in_alphabet
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.usecases.jobs.shelf import OnShelf


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
    look_ups: int
    """Entries still to be looked up."""
    came_back: int
    """Entries that were switched off and started all the same."""
    turns_left: int
    """Boots that are still to be taken in turns."""
    needs_part: bool
    """The owner is advised of something that has to be bought and fitted."""
    measure: Measure
    """The measure its book opens in."""
    saved: float | None
    """What was saved in all in that measure, negative when lost; None when nothing was measured."""
    staircase: tuple[float, ...]
    """The balances one after the other, 0 to 1."""

    @property
    def due(self) -> bool:
        """Somebody has to do something at the PC now: to be told apart at a glance."""
        return bool(self.came_back) or self.state is ShelfState.RESTART_DUE

    @property
    def rank(self) -> int:
        """How soon it is its turn, 0 first."""
        waits = (self.due, bool(self.turns_left), self.state in _WAITING, True)
        return waits.index(True)


_WAITING = frozenset({ShelfState.PENCILLED, ShelfState.NO_BOOT})


class ShelfOrder(StrEnum):
    """In which order jobs stand on the shelf."""

    NEXT = "next"
    """Those first at which something is to be done, then by when they came in last."""
    LAST_VISIT = "last_visit"
    LABEL = "label"
    PC = "pc"
    OWNER = "owner"
    SAVED = "saved"


_KEYS: Mapping[ShelfOrder, Callable[[Spine], tuple[object, ...]]] = {
    ShelfOrder.NEXT: lambda spine: (spine.rank, -spine.last_visit.timestamp()),
    ShelfOrder.LAST_VISIT: lambda spine: (-spine.last_visit.timestamp(),),
    ShelfOrder.LABEL: lambda spine: in_alphabet(spine.card.label),
    ShelfOrder.PC: lambda spine: in_alphabet(spine.card.title),
    ShelfOrder.OWNER: lambda spine: (not spine.card.owner, *in_alphabet(spine.card.owner)),
    ShelfOrder.SAVED: lambda spine: (spine.saved is None, -(spine.saved or 0.0)),
}


def shelf(jobs: Iterable[OnShelf], order: ShelfOrder = ShelfOrder.NEXT) -> tuple[Spine, ...]:
    """All jobs in an order; those that are equal in it stay as they are."""
    return tuple(sorted((_spine(on_shelf) for on_shelf in jobs), key=_KEYS[order]))


def best_measure(job: Job) -> Measure:
    """The measure a job's book opens in: the first that was measured, times before the rest."""
    order = (Measure.SETTLED, Measure.READY, Measure.SYSTEM_UP, *Measure)
    return next((measure for measure in order if is_measured(job, measure)), Measure.SETTLED)


def is_measured(job: Job, measure: Measure) -> bool:
    """Whether any boot of the job has this measure."""
    return any(measure in boot.readings for boot in job.boots)


def _spine(on_shelf: OnShelf) -> Spine:
    job, measure = on_shelf.job, best_measure(on_shelf.job)
    balances = balances_of(job, measure)
    return Spine(
        job=job.number,
        card=job.card,
        state=_state(job),
        taken_in_at=job.taken_in_at,
        last_visit=last_visit(job),
        look_ups=on_shelf.look_ups,
        came_back=len(reappeared_entries(job)),
        turns_left=_turns_left(job),
        needs_part=_needs_part(job),
        measure=measure,
        saved=_saved(balances),
        staircase=staircase(balances),
    )


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
