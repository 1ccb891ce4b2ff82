"""Recordings on a stick, in words."""

from collections.abc import Sequence

from plucky_ledger.core.values.reasons import Reason, ReasonCode
from plucky_ledger.usecases.recording.sticks import PcOnStick, TakenIn
from plucky_ledger.wording.figures import day, with_unit
from plucky_ledger.wording.language import all_of, say, say_n
from plucky_ledger.wording.recording import remarks
from plucky_ledger.wording.safe import shown

MOST_NAMED = 4
AS_EXPECTED = frozenset({ReasonCode.IN_THE_BOOK, ReasonCode.READ_AT_REST})


def on_the_stick(pcs: Sequence[PcOnStick], key: str) -> str:
    """What is new on it, and the key that takes it in."""
    new = sum(len(pc.new) for pc in pcs)
    return say(
        "{recordings}: {pcs}. {key} takes them in.",
        recordings=say_n("{n} new recording", "{n} new recordings", new),
        pcs=_named([_with_number(pc) for pc in pcs]),
        key=key,
    )


def nothing_new() -> str:
    """No stick is in, or it has nothing new."""
    return say("No stick with new recordings is in.")


def _with_number(pc: PcOnStick) -> str:
    title = shown(pc.title or pc.name)
    if pc.job is None:
        return say("{title} ({number}, no job yet)", title=title, number=len(pc.new))
    return say("{title} ({number})", title=title, number=len(pc.new))


def taken_in(outcome: Sequence[TakenIn]) -> str:
    """What became of them."""
    sentences = [_taken(one) for one in outcome if one.boots]
    said = [word for one in outcome for word in one.said if not _as_expected(word)]
    words = [*sentences, *([remarks(said)] if said else []), *got_slower(outcome)]
    return " ".join(words) or nothing_new()


def got_slower(outcome: Sequence[TakenIn]) -> list[str]:
    """A sentence for each PC that is found to be slower now."""
    return [
        say(
            "{title} is {amount} slower since {day}.",
            title=shown(one.title),
            amount=with_unit(one.slower.by, one.slower.measure),
            day=day(one.slower.since),
        )
        for one in outcome
        if one.slower is not None
    ]


def _taken(one: TakenIn) -> str:
    boots = say_n("{n} boot", "{n} boots", one.boots)
    title = shown(one.title)
    if one.begun:
        return say("{boots} in a new job: {title}.", boots=boots, title=title)
    return say("{boots} in the book of {title}.", boots=boots, title=title)


def _as_expected(word: object) -> bool:
    return isinstance(word, Reason) and word.code in AS_EXPECTED


def _named(names: Sequence[str]) -> str:
    """The first of them, and how many more there are."""
    more = len(names) - MOST_NAMED
    rest = [say_n("{n} more", "{n} more", more)] if more > 0 else []
    return all_of([*names[:MOST_NAMED], *rest])
