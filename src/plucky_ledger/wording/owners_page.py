"""The statement's first page in everyday words: no figure in brackets, no word of the book."""

from collections.abc import Mapping
from dataclasses import dataclass

from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.job.advised import Advised
from plucky_ledger.core.job.changes import Change
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.exchange.statement import Bar, ForTheOwner
from plucky_ledger.pages.owners_page import OpenPoint, Outcome, OwnersPage, is_reason
from plucky_ledger.wording.advice import advice_in_words
from plucky_ledger.wording.figures import number, percent, seconds
from plucky_ledger.wording.labels import capital
from plucky_ledger.wording.language import N_, say, say_n
from plucky_ledger.wording.safe import shown

LONGEST_WITH_TENTHS = 60.0
"""Seconds; beyond, a headline has whole ones."""
MOST_LISTED = 12
"""Lines of a list on one page."""


def owners_page_in_words(page: OwnersPage) -> ForTheOwner:
    """The first page as the owner reads it."""
    changed = [_changed(change) for change in page.changed]
    left_on = [
        say("{name}: {why}", name=shown(one.name), why=shown(one.reason)) for one in page.left_on
    ]
    return ForTheOwner(
        headline=headline(page),
        how_sure=_how_sure(page),
        bars=_bars(page),
        changed=_cut(changed),
        left_on=_cut(left_on),
        advised=tuple(_advised(one) for one in page.advised),
        open_points=tuple(say(_OPEN[point]) for point in page.open_points),
    )


@dataclass(frozen=True, kw_only=True)
class _Phrases:
    """What is said of one measure, in whole sentences."""

    better: str
    worse: str
    better_apart: str
    worse_apart: str
    """The change where it is not the difference of the two figures."""
    same: str
    uncertain: str
    once: str


_READY = _Phrases(
    better=N_("Your PC is ready {amount} sooner: {after} instead of {before} ({share} less)."),
    worse=N_("Your PC is ready {amount} later: {after} instead of {before} ({share} more)."),
    better_apart=N_("Your PC is ready {amount} sooner, counted at the same speed of the PC."),
    worse_apart=N_("Your PC is ready {amount} later, counted at the same speed of the PC."),
    same=N_("Your PC is ready as quickly as before: after {after}."),
    uncertain=N_(
        "It is not sure yet whether your PC is ready sooner: {before} before, {after} now."
    ),
    once=N_("Your PC is ready {after} after it was switched on."),
)
_PHRASES: Mapping[Measure, _Phrases] = {
    Measure.READY: _READY,
    Measure.SETTLED: _READY,
    Measure.SYSTEM_UP: _Phrases(
        better=N_(
            "Your PC's system has started {amount} sooner: {after} instead of {before} ({share} "
            "less)."
        ),
        worse=N_(
            "Your PC's system has started {amount} later: {after} instead of {before} ({share} "
            "more)."
        ),
        better_apart=N_(
            "Your PC's system has started {amount} sooner, counted at the same speed of the PC."
        ),
        worse_apart=N_(
            "Your PC's system has started {amount} later, counted at the same speed of the PC."
        ),
        same=N_("Your PC's system starts as quickly as before: in {after}."),
        uncertain=N_(
            "It is not sure yet whether your PC's system starts sooner: {before} before, {after} "
            "now."
        ),
        once=N_("Your PC's system has started after {after}."),
    ),
    Measure.MEMORY_HELD: _Phrases(
        better=N_(
            "Your PC needs {amount} less memory: {after} instead of {before} ({share} less)."
        ),
        worse=N_("Your PC needs {amount} more memory: {after} instead of {before} ({share} more)."),
        better_apart=N_("Your PC needs {amount} less memory."),
        worse_apart=N_("Your PC needs {amount} more memory."),
        same=N_("Your PC needs as much memory as before: {after}."),
        uncertain=N_(
            "It is not sure yet whether your PC needs less memory: {before} before, {after} now."
        ),
        once=N_("Your PC needs {after} of memory when nobody uses it."),
    ),
    Measure.PROCESSES: _Phrases(
        better=N_(
            "{amount} fewer programs run in your PC: {after} instead of {before} ({share} less)."
        ),
        worse=N_(
            "{amount} more programs run in your PC: {after} instead of {before} ({share} more)."
        ),
        better_apart=N_("{amount} fewer programs run in your PC."),
        worse_apart=N_("{amount} more programs run in your PC."),
        same=N_("As many programs run in your PC as before: {after}."),
        uncertain=N_(
            "It is not sure yet whether fewer programs run in your PC: {before} before, {after} "
            "now."
        ),
        once=N_("{after} programs run in your PC when nobody uses it."),
    ),
    Measure.LOAD_AT_REST: _Phrases(
        better=N_("When nobody uses it, your PC is less busy: {after} instead of {before}."),
        worse=N_("When nobody uses it, your PC is busier: {after} instead of {before}."),
        better_apart=N_("When nobody uses it, your PC is less busy than before."),
        worse_apart=N_("When nobody uses it, your PC is busier than before."),
        same=N_("When nobody uses it, your PC is as busy as before: {after}."),
        uncertain=N_(
            "It is not sure yet whether your PC is less busy when nobody uses it: {before} before, "
            "{after} now."
        ),
        once=N_("When nobody uses it, your PC is busy {after} of the time."),
    ),
    Measure.CPU_WORK: _Phrases(
        better=N_("Starting is {share} less work for your PC than before."),
        worse=N_("Starting is {share} more work for your PC than before."),
        better_apart=N_("Starting is less work for your PC than before."),
        worse_apart=N_("Starting is more work for your PC than before."),
        same=N_("Starting is as much work for your PC as before."),
        uncertain=N_("It is not sure yet whether starting is less work for your PC."),
        once=N_("How much work starting is for your PC is measured; there is nothing beside it."),
    ),
    Measure.DISK_READ: _Phrases(
        better=N_("Your PC reads {share} less from its disk to start."),
        worse=N_("Your PC reads {share} more from its disk to start."),
        better_apart=N_("Your PC reads less from its disk to start."),
        worse_apart=N_("Your PC reads more from its disk to start."),
        same=N_("Your PC reads as much from its disk to start as before."),
        uncertain=N_("It is not sure yet whether your PC reads less from its disk to start."),
        once=N_("Your PC reads {after} from its disk to start."),
    ),
}


def headline(page: OwnersPage) -> str:
    """What came of it, in one sentence."""
    phrases, before, after = _PHRASES[page.measure], page.before, page.after
    if page.outcome is Outcome.AS_IT_CAME:
        return say("Everything that was tried is put back: your PC is as it came.")
    if after is None or page.outcome is Outcome.NOTHING_MEASURED:
        return say("Nothing was measured yet.")
    places = _places(page)
    if before is None or page.outcome is Outcome.MEASURED_ONCE:
        return say(phrases.once, after=_amount(after, page.measure, places))
    change = round(after, places) - round(before, places) if page.change is None else page.change
    apart = page.change is not None
    better, worse = (
        (phrases.better_apart, phrases.worse_apart) if apart else (phrases.better, phrases.worse)
    )
    words = {
        Outcome.BETTER: better,
        Outcome.WORSE: worse,
        Outcome.SAME: phrases.same,
        Outcome.UNCERTAIN: phrases.uncertain,
    }
    return say(
        words[page.outcome],
        amount=_amount(abs(change), page.measure, places),
        before=_amount(before, page.measure, places),
        after=_amount(after, page.measure, places),
        share=percent(abs(change) / before) if before else "",
    )


def _places(page: OwnersPage) -> int:
    longest = max(page.before or 0.0, page.after or 0.0)
    if page.measure in {Measure.READY, Measure.SETTLED, Measure.SYSTEM_UP}:
        return 0 if longest >= LONGEST_WITH_TENTHS else 1
    return page.measure.terms.decimals


def _amount(value: float, measure: Measure, places: int) -> str:
    if measure in {Measure.READY, Measure.SETTLED, Measure.SYSTEM_UP}:
        return seconds(value, places)
    return f"{number(value, places)} {measure.terms.unit}".strip()


def _how_sure(page: OwnersPage) -> str:
    before = say_n("{n} start", "{n} starts", page.starts_before)
    after = say_n("{n} start", "{n} starts", page.starts_after)
    match page.outcome:
        case Outcome.BETTER | Outcome.WORSE:
            return say(
                "This is sure: {before} before and {after} now were measured, and they differ "
                "among themselves by less.",
                before=before,
                after=after,
            )
        case Outcome.SAME:
            return say(
                "{before} before and {after} now were measured: if anything changed, it is too "
                "little to notice.",
                before=before,
                after=after,
            )
        case Outcome.UNCERTAIN:
            return say(
                "{before} before and {after} now were measured, and they differ too much among "
                "themselves. More starts will tell.",
                before=before,
                after=after,
            )
        case Outcome.MEASURED_ONCE:
            return say("Measured over {starts}, before anything was changed.", starts=after)
        case Outcome.AS_IT_CAME | Outcome.NOTHING_MEASURED:
            return ""


def _bars(page: OwnersPage) -> tuple[Bar, ...]:
    if page.before is None or page.after is None or page.measure in {Measure.CPU_WORK}:
        return ()
    places = _places(page)
    return (
        Bar(say("at first"), page.before, _amount(page.before, page.measure, places)),
        Bar(say("now"), page.after, _amount(page.after, page.measure, places)),
    )


_SET: Mapping[EntryState, str] = {
    EntryState.ON: N_("{name} starts by itself again"),
    EntryState.OFF: N_("{name} no longer starts by itself"),
    EntryState.OFF_FOR_GOOD: N_("{name} no longer starts by itself"),
    EntryState.OFF_HERE: N_("{name} no longer starts by itself"),
    EntryState.LATER: N_("{name} starts a little later"),
    EntryState.WHEN_NEEDED: N_("{name} starts only when it is needed"),
    EntryState.AS_DELIVERED: N_("{name} is set as its maker delivers it"),
}


def _changed(change: Change) -> str:
    what = shown(change.what)
    what = capital(what) if change.new_state is None else say(_SET[change.new_state], name=what)
    if not is_reason(change.why):
        return what
    return say("{what}: {why}", what=what, why=shown(change.why))


def _advised(advised: Advised) -> tuple[str, str]:
    words = advice_in_words(advised)
    saves = advised.saves
    if saves is None or saves.low <= 0 or saves.too_wide:
        return words.title, words.to_do
    would = say("It would save about {amount} at each start.", amount=seconds(saves.value, 0))
    return words.title, f"{words.to_do} {would}"


_OPEN: Mapping[OpenPoint, str] = {
    OpenPoint.PLANNED: N_("Some changes are planned and not made yet."),
    OpenPoint.RESTART_DUE: N_(
        "The last changes count from the next restart on: no start with them is recorded yet."
    ),
    OpenPoint.OTHER_CONDITIONS: N_(
        "The starts before and after were recorded under somewhat different conditions."
    ),
    OpenPoint.ONE_DAY: N_(
        "Everything was measured on one day: what happens only now and then was not seen."
    ),
}


def _cut(lines: list[str]) -> tuple[str, ...]:
    more = len(lines) - MOST_LISTED
    if more <= 0:
        return tuple(lines)
    rest = say_n("and {n} more, on the next pages", "and {n} more, on the next pages", more)
    return (*lines[:MOST_LISTED], rest)
