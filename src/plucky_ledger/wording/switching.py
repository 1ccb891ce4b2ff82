"""Switching in words: what was done to the PC, what is left to do by hand, what still starts."""

from collections.abc import Sequence

from plucky_ledger.core.entries.switching import PutBack, Switchable, Switched
from plucky_ledger.core.job.changes import Change
from plucky_ledger.core.job.job import Card
from plucky_ledger.core.pc.stopping import Stopped
from plucky_ledger.core.values.reasons import ReasonCode
from plucky_ledger.usecases.changing.switching import Made, Planned
from plucky_ledger.wording.book import change_in_words
from plucky_ledger.wording.figures import size, tenths
from plucky_ledger.wording.labels import label
from plucky_ledger.wording.language import say, say_n
from plucky_ledger.wording.reasons import reason_in_words
from plucky_ledger.wording.safe import shown

STEPS_BY_HAND = frozenset(
    {
        ReasonCode.LINE_OF_A_FILE,
        ReasonCode.LINE_OF_OWN_TABLE,
        ReasonCode.SCRIPT_OF_A_FOLDER,
        ReasonCode.FILE_OF_THE_BUS,
        ReasonCode.LINE_OF_FSTAB,
        ReasonCode.OF_ANOTHER_PERSON,
    }
)
"""Reasons that tell a person what to do, not why nothing can be done."""


def planned_in_words(planned: Planned) -> tuple[str, str]:
    """What a change does, and what is to be known of the PC before it is made."""
    about = set_in_words(planned.found) if planned.found is not None else []
    if planned.is_so:
        about.insert(0, say("it is already set so"))
    if planned.by_hand:
        about.insert(0, say("to be done by hand"))
    return change_in_words(planned.change), "; ".join(about)


def set_in_words(found: Switchable) -> list[str]:
    """How an entry is set, what starts it all the same, and what cannot be without it."""
    if found.cannot is not None and found.cannot.code in STEPS_BY_HAND:
        return [reason_in_words(found.cannot)]
    if found.cannot is not None:
        return [say("it cannot be switched: {why}", why=reason_in_words(found.cannot))]
    sentences = [say("now {state}", state=label(found.state) if found.state else say("unknown"))]
    if found.delivered is not None and found.delivered is not found.state:
        sentences.append(say("vendor default: {state}", state=label(found.delivered)))
    sentences += [reason_in_words(reason) for reason in found.started_by]
    if found.needed_by:
        names = shown(", ".join(found.needed_by))
        sentences.append(say("needed by {names}", names=names))
    if found.administrators:
        sentences.append(say("needs the administrator"))
    return sentences


def list_to_do(planned: Sequence[Planned], card: Card | None) -> str:
    """A list to be taken to the bench, one line a change."""
    lines = [f"☐ {shown(change_in_words(one.change))}" for one in planned]
    head = [f"{shown(card.label)}  {shown(card.title)}"] if card is not None else []
    return "\n".join([*head, *lines])


def posted(made: Made) -> str:
    """What a posting has done, and what is to be done now."""
    sentences = [say("Posted.")]
    if made.switched:
        count = len(made.switched)
        sentences = [
            say_n("Posted: {n} entry is switched.", "Posted: {n} entries are switched.", count)
        ]
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


def put_back_in_words(undone: Sequence[PutBack]) -> str:
    """What was undone by the journal of changes alone."""
    if not undone:
        return say("There was nothing to put back.")
    names = shown(", ".join(entry.entry_id for entry in undone))
    sentence = say("Put back: {names}. Now restart the PC.", names=names)
    left = shown(", ".join(entry.left_at for entry in undone if entry.left_at))
    if not left:
        return sentence
    return f"{sentence} {say('Left as another program has written it since: {paths}.', paths=left)}"


def stopped_in_words(done: Stopped) -> str:
    """What ending a program has freed, and whether it came back."""
    sentences = [
        say_n(
            "{name}: {n} process ended.",
            "{name}: {n} processes ended.",
            done.processes,
            name=shown(done.name),
        )
    ]
    if done.freed_bytes:
        sentences.append(say("{size} freed.", size=size(done.freed_bytes)))
    if done.forced:
        sentences.append(say_n("{n} had to be forced.", "{n} had to be forced.", done.forced))
    if done.came_back_seconds is None:
        sentences.append(say("It has not restarted by itself so far."))
    else:
        by = shown(done.started_again_by) or say("an unknown program")
        after = tenths(done.came_back_seconds)
        sentences.append(
            say("It restarted after {seconds} s (started by {by}).", seconds=after, by=by)
        )
    return " ".join([*sentences, say("After a restart everything is as it was.")])


def turns_begun(left: int) -> str:
    """How many boots are to be taken in turns."""
    return say_n(
        "{n} boot is to be taken in turns: each after switching and a restart.",
        "{n} boots are to be taken in turns: each after switching and a restart.",
        left,
    )


def turns_going_on(left: int) -> str:
    """How many are left."""
    if not left:
        return say("All boots are taken in turns.")
    return say_n("Boots in turns: {n} is left.", "Boots in turns: {n} are left.", left)


def cut_off_in_words() -> str:
    """That something on this PC was left halfway."""
    return say(
        "Changing this PC was interrupted halfway. Choose Book, “Put back the interrupted "
        "change”, to make it as it was before."
    )


def _named(changes: Sequence[Change]) -> str:
    return "; ".join(change_in_words(change) for change in changes)
