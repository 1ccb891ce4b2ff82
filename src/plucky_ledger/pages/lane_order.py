"""Order of the lanes, and which of them are folded away."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from plucky_ledger.pages.lanes import Lane, LanesPage


class LaneOrder(StrEnum):
    """What the lanes are ordered by."""

    COST = "cost"
    FIRST_WORK = "first_work"
    OWNER = "owner"
    CHAIN = "chain"


@dataclass(frozen=True)
class Folded:
    """The parts of the system that are out of sight, or could be."""

    lanes: int
    costliest: Lane | None
    """The one that costs most; None where it is unknown."""


def ordered(page: LanesPage, order: LaneOrder) -> LanesPage:
    """The page with its lanes in another order; unknown costs come last, by first work."""
    lanes = list(page.lanes)
    match order:
        case LaneOrder.COST:
            lanes.sort(key=_least_cost_last)
        case LaneOrder.OWNER:
            lanes.sort(key=lambda lane: (_owner(lane), *_least_cost_last(lane)))
        case LaneOrder.CHAIN:
            links = page.chain.links if page.chain else ()
            places = {link.entry_id: place for place, link in enumerate(links)}
            lanes.sort(key=lambda lane: (places.get(lane.entry_id, len(places)), lane.first_work))
        case LaneOrder.FIRST_WORK:
            pass
    return replace(page, lanes=tuple(lanes))


def _least_cost_last(lane: Lane) -> tuple[float, float]:
    return (-lane.cost.value if lane.cost else float("inf"), lane.first_work)


def _owner(lane: Lane) -> tuple[bool, str]:
    """Parts of the system come after what is the owner's."""
    return lane.part_of_system, str(lane.entry.owner) if lane.entry else ""


def parts_of_system(page: LanesPage) -> Folded:
    """The parts of the system that the chain does not run through."""
    parts = _parts(page)
    with_cost = [lane for lane in parts if lane.cost]
    costliest = max(with_cost, key=lambda lane: lane.cost.value if lane.cost else 0.0, default=None)
    return Folded(len(parts), costliest)


def folded(page: LanesPage) -> LanesPage:
    """The page without them."""
    away = {lane.entry_id for lane in _parts(page)}
    return replace(page, lanes=tuple(lane for lane in page.lanes if lane.entry_id not in away))


def _parts(page: LanesPage) -> Sequence[Lane]:
    on_chain = {link.entry_id for link in page.chain.links} if page.chain else set()
    return [lane for lane in page.lanes if lane.part_of_system and lane.entry_id not in on_chain]
