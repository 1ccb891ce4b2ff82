"""Bookkeeping steps in words, for undoing."""

from collections.abc import Callable, Mapping

from plucky_ledger.core.boots.boot import How
from plucky_ledger.core.entries.decisions import Decision
from plucky_ledger.core.values.reasons import Fact
from plucky_ledger.core.values.steps import Step, StepCode
from plucky_ledger.wording.labels import label
from plucky_ledger.wording.language import say, say_n
from plucky_ledger.wording.safe import shown

Facts = Mapping[str, Fact]


def undone(step: Step | None) -> str:
    """What undoing did."""
    return say("Undone: {step}.", step=_what(step)) if step else say("Nothing to undo.")


def done_again(step: Step | None) -> str:
    """What doing again did."""
    return say("Redone: {step}.", step=_what(step)) if step else say("Nothing to redo.")


def _what(step: Step) -> str:
    return shown(_WORDS[step.code](step.facts))


def _about(facts: Facts) -> str:
    """One entry by its name, several by their number."""
    many = int(facts.get("entries", 1))
    return str(facts["name"]) if many == 1 else say_n("{n} entry", "{n} entries", many)


_WORDS: Mapping[StepCode, Callable[[Facts], str]] = {
    StepCode.TAKE_IN: lambda facts: say("take in {title}", title=facts["title"]),
    StepCode.CHANGE_CARD: lambda facts: say("change the card of {title}", title=facts["title"]),
    StepCode.PENCIL: lambda _: say("pencil a change"),
    StepCode.RUB_OUT: lambda _: say("rub out what was pencilled"),
    StepCode.POST: lambda _: say("post the changes"),
    StepCode.PUT_BACK: lambda _: say("put a posting back"),
    StepCode.BEGIN_VISIT: lambda _: say("take the PC in again"),
    StepCode.BEGIN_TURNS: lambda _: say("take boots in turns"),
    StepCode.END_TURNS: lambda _: say("stop taking boots in turns"),
    StepCode.WRITE_DOWN_OUTSIDE: lambda _: say("write down changes made elsewhere"),
    StepCode.ADD_BOOT: lambda facts: say("add a boot {how}", how=label(How(str(facts["how"])))),
    StepCode.ADD_TABLE: lambda facts: say_n(
        "add {n} boot from a table", "add {n} boots from a table", int(facts["boots"])
    ),
    StepCode.ADD_CARD: lambda facts: say_n(
        "add {n} boot from a card", "add {n} boots from a card", int(facts["boots"])
    ),
    StepCode.CORRECT_MARKS: lambda _: say("correct the marks of a boot"),
    StepCode.SET_BOOT_ASIDE: lambda _: say("set a boot aside"),
    StepCode.BRING_BOOT_BACK: lambda _: say("bring a boot back"),
    StepCode.DECIDE: lambda facts: f"{label(Decision(str(facts['decision'])))}: {_about(facts)}",
    StepCode.GIVE_REASON: lambda facts: say("reason: {about}", about=_about(facts)),
    StepCode.WRITE_FINDING: lambda facts: say("what was found about {name}", name=facts["name"]),
    StepCode.TYPE_ENTRIES: lambda _: say("type in startup entries"),
    StepCode.SET_PROGRAM_ASIDE: lambda facts: say("leave {name} out", name=facts["program"]),
    StepCode.BRING_PROGRAM_BACK: lambda facts: say("bring {name} back", name=facts["program"]),
    StepCode.SAVE_PROFILE: lambda facts: say("save the stock profile {name}", name=facts["name"]),
    StepCode.PUT_ON_STATEMENT: lambda _: say("put advice on the statement"),
    StepCode.TAKE_OFF_STATEMENT: lambda _: say("take advice off the statement"),
    StepCode.INSPECT: lambda _: say("read drive health"),
    StepCode.CHANGE_GRADES: lambda _: say("change the grades"),
    StepCode.SET_SEARCH_ADDRESS: lambda _: say("set the search address"),
    StepCode.TAKE_IN_LEARNED: lambda facts: say(
        "take in what {name} learned", name=facts["name"] or say("another workshop")
    ),
    StepCode.FORGET_LEARNED: lambda facts: say("forget what {name} told", name=facts["name"]),
    StepCode.MERGE: lambda facts: say("take {title} in from a job file", title=facts["title"]),
    StepCode.TOLD: lambda facts: str(facts["text"]),
}
