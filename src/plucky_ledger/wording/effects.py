"""Which change did it, in words."""

from plucky_ledger.core.book.effects import Effect
from plucky_ledger.core.values.estimates import Estimate
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.pages.effects import EffectsPage
from plucky_ledger.wording.book import change_in_words
from plucky_ledger.wording.figures import between, signed
from plucky_ledger.wording.labels import unit_word
from plucky_ledger.wording.language import say, say_n
from plucky_ledger.wording.reasons import boots_n
from plucky_ledger.wording.safe import shown
from plucky_ledger.wording.spoken import spoken_amount


def effect_name(effect: Effect) -> str:
    """What was changed."""
    if effect.factor.change is None:
        return say("what happened elsewhere before the visit")
    return shown(change_in_words(effect.factor.change))


def effect_basis(effect: Effect) -> str:
    """Whether it is in force, and the boots it rests on."""
    state = say("in force") if effect.in_force else say("put back")
    boots = say(
        "{boots} with it, {without} without",
        boots=boots_n(effect.boots_with),
        without=effect.boots_without,
    )
    return f"{state} · {boots}"


def replay_in_words(expected: Estimate | None, measure: Measure) -> str:
    """What the replay had expected of it; empty where it tells nothing."""
    if expected is None:
        return ""
    span = between(signed(expected.low, measure), signed(expected.high, measure))
    return say("predicted {shift} ({span})", shift=signed(expected.value, measure), span=span)


def effect_in_words(effect: Effect, page: EffectsPage) -> str:
    """Such as "−7.4 (−8.9 to −5.9)": with it against without it."""
    if effect.value is None:
        return say("only measured together so far")
    text = signed(effect.value, page.measure)
    if effect.low is None or effect.high is None:
        return say("{shift} (no spread yet)", shift=text)
    span = between(signed(effect.low, page.measure), signed(effect.high, page.measure))
    return f"{text} ({span})"


def spoken_effect(effect: Effect, page: EffectsPage) -> str:
    """The same with its unit, which a heading says to the eye."""
    told = effect_in_words(effect, page)
    return told if effect.value is None else spoken_amount(told, page.measure)


def headline(page: EffectsPage) -> str:
    """What is known, in one sentence."""
    if not page.rows:
        return say("Nothing has been changed and measured yet.")
    if not page.brackets:
        return say_n("What the {n} change does", "What each of {n} changes does", len(page.rows))
    measured = sum(row.value is not None for row in page.rows)
    return say("{told} of {n} changes measured separately", told=measured, n=len(page.rows))


def basis(page: EffectsPage) -> str:
    """What the figures are."""
    if not page.rows:
        return say("Post changes, restart and record: then their shares stand here.")
    unit = unit_word(page.measure)
    return say(
        "{unit} with the change against without it, where the PC is now, and its 95 % interval, "
        "from {boots} of all states together",
        unit=unit,
        boots=boots_n(page.boots),
    ).strip()


def next_restart(page: EffectsPage) -> str:
    """The next restart worth making, and how many are left; empty where there is none."""
    if not page.rows or page.next_state is None:
        return ""
    changes = [shown(change_in_words(change)) for change in page.next_changes]
    what = "; ".join(changes) if changes else say("as the PC is now")
    sentence = say("Best next boot: {what}.", what=what)
    if page.restarts_left is None:
        return sentence
    if page.restarts_left == 0:
        return f"{sentence} {say('All are measured separately; it makes the intervals narrower.')}"
    left = say_n(
        "After {n} restart all are measured separately.",
        "After {n} restarts all are measured separately.",
        page.restarts_left,
    )
    return f"{sentence} {left}"
