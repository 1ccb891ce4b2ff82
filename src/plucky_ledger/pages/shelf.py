"""The job shelf: every job as a ledger spine."""

from collections.abc import Callable, Iterable, Mapping, Sequence
from datetime import datetime, timedelta
from enum import StrEnum

from plucky_ledger.core.shelf.spine import ShelfState, Spine, best_measure, is_measured
from plucky_ledger.core.values.alphabet import in_alphabet

__all__ = [
    "ShelfFilter",
    "ShelfOrder",
    "ShelfState",
    "Spine",
    "best_measure",
    "counts",
    "group_of",
    "is_measured",
    "is_shown",
    "shelf",
]


class ShelfOrder(StrEnum):
    """In which order jobs stand on the shelf."""

    NEXT = "next"
    """Those first at which something is to be done, then by when they came in last."""
    LAST_VISIT = "last_visit"
    LABEL = "label"
    PC = "pc"
    OWNER = "owner"
    MODEL = "model"
    SAVED = "saved"


_KEYS: Mapping[ShelfOrder, Callable[[Spine], tuple[object, ...]]] = {
    ShelfOrder.NEXT: lambda spine: (spine.rank, -spine.last_visit.timestamp()),
    ShelfOrder.LAST_VISIT: lambda spine: (-spine.last_visit.timestamp(),),
    ShelfOrder.LABEL: lambda spine: in_alphabet(spine.card.label),
    ShelfOrder.PC: lambda spine: in_alphabet(spine.card.title),
    ShelfOrder.OWNER: lambda spine: (not spine.card.owner, *in_alphabet(spine.card.owner)),
    ShelfOrder.MODEL: lambda spine: (not spine.model, *in_alphabet(spine.model)),
    ShelfOrder.SAVED: lambda spine: (spine.saved is None, -(spine.saved or 0.0)),
}


_GROUPS: Mapping[ShelfOrder, Callable[[Spine], str]] = {
    ShelfOrder.OWNER: lambda spine: spine.card.owner.strip(),
    ShelfOrder.MODEL: lambda spine: spine.model,
}


def group_of(spine: Spine, order: ShelfOrder) -> str | None:
    """What it shares with those beside it in this order, empty where that is not known; None in an
    order in which each stands for itself.
    """
    group = _GROUPS.get(order)
    return group(spine) if group is not None else None


class ShelfFilter(StrEnum):
    """Which jobs are shown."""

    ALL = "all"
    DUE = "due"
    """Something is to be done at the PC: a restart, turns, what came back."""
    NEW = "new"
    """Recordings of it came in, and nobody has written anything about it yet."""
    SLOWER = "slower"
    """It got slower, and nothing made it quicker since."""
    LOOK_UP = "look_up"
    PART = "part"
    QUIET = "quiet"
    """No boot came in for long."""


QUIET_AFTER = timedelta(days=30)


def is_shown(spine: Spine, wanted: ShelfFilter, now: datetime) -> bool:
    """Whether a job belongs to those that are wanted."""
    match wanted:
        case ShelfFilter.ALL:
            return True
        case ShelfFilter.DUE:
            return spine.due or bool(spine.turns_left)
        case ShelfFilter.NEW:
            return spine.new
        case ShelfFilter.SLOWER:
            return spine.slower_by is not None
        case ShelfFilter.LOOK_UP:
            return bool(spine.look_ups)
        case ShelfFilter.PART:
            return spine.needs_part
        case ShelfFilter.QUIET:
            return now - (spine.last_heard or spine.taken_in_at) > QUIET_AFTER


def shelf(spines: Iterable[Spine], order: ShelfOrder = ShelfOrder.NEXT) -> tuple[Spine, ...]:
    """All jobs in an order; those that are equal in it stay as they are."""
    return tuple(sorted(spines, key=_KEYS[order]))


def counts(spines: Sequence[Spine], now: datetime) -> Mapping[ShelfFilter, int]:
    """How many jobs each filter shows."""
    return {wanted: sum(is_shown(spine, wanted, now) for spine in spines) for wanted in ShelfFilter}
