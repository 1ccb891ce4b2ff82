"""What the answers of the Why lens rest on, in words."""

from plucky_ledger.core.advice.finding import Finding
from plucky_ledger.core.pc.room import Survey
from plucky_ledger.core.trend.trend import Trend
from plucky_ledger.pages.why import WhyPage
from plucky_ledger.wording.advice import advice_in_words, rests_on, takes, wins
from plucky_ledger.wording.basis import Basis
from plucky_ledger.wording.labels import label
from plucky_ledger.wording.language import say
from plucky_ledger.wording.room import room_basis, room_in_short
from plucky_ledger.wording.trend import (
    levels_in_words,
    step_in_words,
    trend_basis,
    trend_in_short,
)

WHY_SECTION = "Why it is still slow"


def of_finding(finding: Finding, page: WhyPage) -> Basis:
    """What a finding rests on: what was seen, what it is held against, what speaks against it."""
    words = advice_in_words(finding)
    sentences = (
        words.seen,
        wins(finding),
        takes(finding).capitalize() + ".",
        rests_on(page),
        say("Consider first: {reason}", reason=words.against),
    )
    return Basis(words.title, tuple(filter(None, sentences)), WHY_SECTION)


def of_trend(trend: Trend) -> Basis:
    """What the steps of a trend rest on."""
    steps = (
        f"{step_in_words(step, trend.measure)} {levels_in_words(step, trend.measure)}"
        for step in trend.steps
    )
    sentences = (trend_basis(trend), *(steps if trend.steps else (trend_in_short(trend),)))
    return Basis(label(trend.measure), sentences, "Since when: steps over months")


def of_room(survey: Survey) -> Basis:
    """What the survey counted."""
    return Basis(say("Disk space"), (room_in_short(survey), room_basis(survey)), WHY_SECTION)
