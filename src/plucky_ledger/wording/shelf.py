"""The job shelf in words."""

from collections.abc import Mapping

from plucky_ledger.pages.shelf import ShelfFilter, ShelfOrder, ShelfState, Spine
from plucky_ledger.wording.figures import day, with_unit
from plucky_ledger.wording.language import C_, N_, say, say_n
from plucky_ledger.wording.safe import shown

_ORDERS: Mapping[ShelfOrder, str] = {
    ShelfOrder.NEXT: N_("what is due first"),
    ShelfOrder.LAST_VISIT: N_("newest visit first"),
    ShelfOrder.LABEL: N_("by label"),
    ShelfOrder.PC: N_("by PC"),
    ShelfOrder.OWNER: C_("whose PC it is", "by owner"),
    ShelfOrder.MODEL: N_("by processor and memory"),
    ShelfOrder.SAVED: N_("most saved first"),
}


def order_in_words(order: ShelfOrder) -> str:
    """In which order the jobs stand."""
    return say(_ORDERS[order])


_FILTERS: Mapping[ShelfFilter, str] = {
    ShelfFilter.ALL: N_("all PCs"),
    ShelfFilter.DUE: N_("something is due"),
    ShelfFilter.NEW: N_("new, card still empty"),
    ShelfFilter.SLOWER: N_("got slower"),
    ShelfFilter.LOOK_UP: N_("to look up"),
    ShelfFilter.PART: N_("needs a part"),
    ShelfFilter.QUIET: N_("no boot for a month"),
}


def filter_in_words(wanted: ShelfFilter, count: int) -> str:
    """Which jobs are shown, and how many those are."""
    return f"{say(_FILTERS[wanted])} ({count})"


def group_heading(group: str, order: ShelfOrder, count: int) -> str:
    """What stands above PCs that share something, and how many they are."""
    unknown = say("Owner not known") if order is ShelfOrder.OWNER else say("Hardware not known")
    return f"{shown(group) or unknown} ({count})"


def about(spine: Spine, order: ShelfOrder) -> str:
    """What stands below the title, but for what the heading says."""
    parts = ("" if order is ShelfOrder.OWNER else owner(spine), visit(spine))
    return " · ".join(filter(None, parts))


def title(spine: Spine) -> str:
    """What the PC is called."""
    return shown(spine.card.title)


def owner(spine: Spine) -> str:
    """Whose it is."""
    return shown(spine.card.owner)


def state(spine: Spine) -> str:
    """How far the job is, in a few words."""
    parts = [say("came back: {n}", n=spine.came_back)] if spine.came_back else []
    if spine.slower_by is not None and spine.slower_since is not None:
        parts.append(
            say(
                "{amount} slower since {day}",
                amount=with_unit(spine.slower_by, spine.measure),
                day=day(spine.slower_since),
            )
        )
    if spine.new:
        parts.append(say("new, card still empty"))
    parts.append(_progress(spine))
    if spine.turns_left:
        left = spine.turns_left
        parts.append(say_n("{n} boot of turns left", "{n} boots of turns left", left))
    if spine.look_ups:
        parts.append(say("{n} to look up", n=spine.look_ups))
    if spine.needs_part:
        parts.append(say("needs a part"))
    return " · ".join(parts)


def _progress(spine: Spine) -> str:
    match spine.state:
        case ShelfState.RESTART_DUE:
            return say("restart due")
        case ShelfState.NO_BOOT:
            return say("taken in {day} · no boot yet", day=day(spine.taken_in_at))
        case ShelfState.PENCILLED:
            return say("changes pencilled")
        case ShelfState.IN_THE_BOOK:
            return say("in the book")
        case ShelfState.OPENING_TAKEN:
            return say("opening balance taken")


def visit(spine: Spine) -> str:
    """When the PC came in last."""
    return say("last visit {day}", day=day(spine.last_visit))


def saved(spine: Spine) -> str:
    """What was saved in all; empty when nothing was measured."""
    if spine.saved is None:
        return ""
    amount = with_unit(abs(spine.saved), spine.measure)
    if spine.saved >= 0:
        return say("saved {amount}", amount=amount)
    return say("lost {amount}", amount=amount)


def searchable(spine: Spine) -> str:
    """Everything the spine says, to be searched in."""
    parts = (
        spine.card.label,
        title(spine),
        owner(spine),
        state(spine),
        visit(spine),
        shown(spine.model),
    )
    return " ".join(parts).casefold()


def matches(said: str, wanted: str) -> bool:
    """Whether every word of a search text is in what a spine says."""
    return all(word in said for word in wanted.casefold().split())
