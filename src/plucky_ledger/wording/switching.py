"""Switching in words: what was done to the PC, what is left to do by hand, what still starts."""

from collections.abc import Sequence

from plucky_ledger.core.book.job import Change
from plucky_ledger.core.entries.switching import Switched
from plucky_ledger.usecases.switching import Made
from plucky_ledger.wording.book import change_in_words
from plucky_ledger.wording.language import say, say_n
from plucky_ledger.wording.reasons import reason_in_words
from plucky_ledger.wording.safe import shown


def posted(made: Made) -> str:
    """What a posting has done, and what is to be done now."""
    sentences = [say("Posted.")]
    if made.switched:
        count = len(made.switched)
        sentences = [say_n("Posted: {n} entry is switched.",
                           "Posted: {n} entries are switched.", count)]  # fmt: skip
    sentences += [_all_the_same(switched) for switched in made.switched if switched.started_by]
    if made.by_hand:
        sentences.append(say("To do by hand: {changes}.", changes=_named(made.by_hand)))
    return " ".join([*sentences, say("Now restart the PC: nothing counts before.")])


def _all_the_same(switched: Switched) -> str:
    why = "; ".join(reason_in_words(reason) for reason in switched.started_by)
    return say("{name} may start all the same: {why}.", name=shown(switched.name), why=why)


def struck_out(by_hand: Sequence[Change]) -> str:
    """What putting back has done, and what is to be done now."""
    sentences = [say("Put back.")]
    if by_hand:
        sentences = [say("Struck out. To undo by hand: {changes}.", changes=_named(by_hand))]
    return " ".join([*sentences, say("Now restart the PC: nothing counts before.")])


def put_back_in_words(undone: Sequence[str]) -> str:
    """What was undone by the journal of changes alone."""
    if not undone:
        return say("Nothing was to be put back.")
    return say("Put back: {names}. Now restart the PC.", names=shown(", ".join(undone)))


def _named(changes: Sequence[Change]) -> str:
    return "; ".join(change_in_words(change) for change in changes)
