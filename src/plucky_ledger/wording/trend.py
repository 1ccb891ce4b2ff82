"""How a PC went over months, in words."""

from collections.abc import Sequence
from datetime import datetime

from plucky_ledger.core.pc.history import PackageAction, PackageEvent
from plucky_ledger.core.trend.changepoints import FEWEST
from plucky_ledger.core.trend.trend import Beside, DatedStep, Trend, TrendPoint
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.wording.book import particulars
from plucky_ledger.wording.figures import (
    day,
    day_and_time,
    number,
    plain,
    size,
    whole_day,
    with_unit,
)
from plucky_ledger.wording.labels import label
from plucky_ledger.wording.language import N_, say, say_n
from plucky_ledger.wording.reasons import in_one_line
from plucky_ledger.wording.safe import shown
from plucky_ledger.wording.spoken import SpokenRow, spoken_amount

NAMED_PACKAGES = 6
TIMES = frozenset({Measure.READY, Measure.SETTLED, Measure.SYSTEM_UP})
_SLOWER = N_("Slower by {amount} since {days}.")
_QUICKER = N_("Quicker by {amount} since {days}.")
_MORE = N_("{amount} more since {days}.")
_LESS = N_("{amount} less since {days}.")
_DONE = {
    PackageAction.INSTALLED: N_("Installed then: {names}."),
    PackageAction.UPDATED: N_("Updated then: {names}."),
    PackageAction.REMOVED: N_("Removed then: {names}."),
}


def trend_in_short(trend: Trend) -> str:
    """The newest step in one sentence, or that there is none."""
    if not trend.tells:
        return say("Finding a step needs {n} boots or more.", n=2 * FEWEST)
    if not trend.steps:
        return say("No step: it has stayed as it was.")
    return step_in_words(trend.steps[-1], trend.measure)


def trend_basis(trend: Trend) -> str:
    """The boots it rests on."""
    if not trend.points:
        return say("No boot with a figure in {measure}.", measure=label(trend.measure))
    return say_n(
        "{measure}: {n} boot, {begin} to {end}.",
        "{measure}: {n} boots, {begin} to {end}.",
        len(trend.points),
        measure=label(trend.measure),
        begin=whole_day(trend.points[0].at),
        end=whole_day(trend.points[-1].at),
    )


def step_in_words(step: DatedStep, measure: Measure) -> str:
    """Such as “Slower by 6.0 s since 3 to 5 May.”"""
    amount, since = with_unit(abs(step.by), measure), between_days(step.earliest, step.latest)
    more, less = (_SLOWER, _QUICKER) if measure in TIMES else (_MORE, _LESS)
    words = more if step.by > 0 else less
    return say(words, amount=amount, days=since)


def between_days(begin: datetime, end: datetime) -> str:
    """When a step was: a day, or the days between which it was."""
    first, last = day(begin), day(end)
    return last if first == last else say("{first} to {last}", first=first, last=last)


def levels_in_words(step: DatedStep, measure: Measure) -> str:
    """From what level to what."""
    return say(
        "{before} before, {after} since.",
        before=with_unit(step.before, measure),
        after=with_unit(step.after, measure),
    )


def causes(step: DatedStep) -> str:
    """What came with a step: what was posted, noticed and installed then."""
    parts = [say("Posted here: {name}.", name=particulars(posting)) for posting in step.postings]
    if step.noticed:
        parts.append(in_one_line(step.noticed))
    for action, words in _DONE.items():
        events = [event for event in step.packages if event.action is action]
        if events:
            parts.append(say(words, names=_named(events)))
    return " ".join(parts) or say("No change is known from that time.")


def _named(events: Sequence[PackageEvent]) -> str:
    names = list(dict.fromkeys(shown(event.name) for event in events))
    text = ", ".join(names[:NAMED_PACKAGES])
    more = len(names) - NAMED_PACKAGES
    return say("{names} and {n} more", names=text, n=more) if more > 0 else text


_BESIDE = {
    Beside.MEMORY: N_("Memory held at rest, {first} to {last}"),
    Beside.ENTRIES: N_("Startup entries added to the system, {first} to {last}"),
}


def beside_in_words(of: Beside, points: Sequence[TrendPoint]) -> str:
    """What is drawn beside a trend, with its first and last figure."""
    first, last = (beside_figure(of, point.value) for point in (points[0], points[-1]))
    return say(_BESIDE[of], first=first, last=last)


def beside_figure(of: Beside, value: float) -> str:
    """One figure of what is drawn beside a trend."""
    return size(value) if of is Beside.MEMORY else number(value)


def spoken_trend(trend: Trend) -> tuple[SpokenRow, ...]:
    """The levels and the boots of a trend as they are read out."""
    levels = tuple(
        say(
            "{days}: {level}",
            days=between_days(level.begin, level.end),
            level=spoken_amount(plain(level.value, trend.measure), trend.measure),
        )
        for level in trend.levels
    )
    boots = tuple(
        SpokenRow(
            day_and_time(point.at),
            (spoken_amount(plain(point.value, trend.measure), trend.measure),),
        )
        for point in trend.points
    )
    beside = (beside_in_words(of, points) for of, points in trend.beside.items())
    return (SpokenRow(say("Levels"), levels), *map(SpokenRow, beside), *boots)
