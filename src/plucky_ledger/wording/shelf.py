"""The job shelf in words."""

from plucky_ledger.pages.shelf import ShelfState, Spine
from plucky_ledger.wording.figures import day, with_unit
from plucky_ledger.wording.language import say
from plucky_ledger.wording.safe import shown


def title(spine: Spine) -> str:
    """What the PC is called."""
    return shown(spine.card.title)


def owner(spine: Spine) -> str:
    """Whose it is."""
    return shown(spine.card.owner)


def state(spine: Spine) -> str:
    """How far the job is, in a few words."""
    sentence = {
        ShelfState.RESTART_DUE: say("restart due"),
        ShelfState.NO_BOOT: say("taken in {day} · no boot yet", day=day(spine.taken_in_at)),
        ShelfState.PENCILLED: say("changes pencilled"),
        ShelfState.IN_THE_BOOK: say("in the book"),
        ShelfState.OPENING_TAKEN: say("opening balance taken"),
    }[spine.state]
    if not spine.look_ups:
        return sentence
    return f"{sentence} · {say('{n} to look up', n=spine.look_ups)}"


def saved(spine: Spine) -> str:
    """What was saved in all; empty when nothing was measured."""
    if spine.saved is None:
        return ""
    amount = with_unit(abs(spine.saved), spine.measure)
    if spine.saved >= 0:
        return say("saved {amount}", amount=amount)
    return say("lost {amount}", amount=amount)


def matches(spine: Spine, wanted: str) -> bool:
    """Whether a search text is in what the spine says."""
    said = f"{spine.card.label} {title(spine)} {owner(spine)} {state(spine)}".casefold()
    return all(word in said for word in wanted.casefold().split())
