"""The left page in words: lines of the book, amounts, and the next step."""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace

from plucky_ledger.core.book.balance import Balance
from plucky_ledger.core.book.moved_later import MovedLater
from plucky_ledger.core.book.next_step import NextStepKind
from plucky_ledger.core.book.verdict import Shift, Verdict
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.job.changes import Change
from plucky_ledger.core.job.job import Job, posting_of
from plucky_ledger.core.job.postings import Posting, PostingState
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.pages.book import BookPage, BookRow, BootCounts, boot_counts
from plucky_ledger.pages.folds import Fold, FoldKind
from plucky_ledger.wording.figures import day, plain, units, with_unit
from plucky_ledger.wording.intervals import expected_at, interval, why_elsewhere
from plucky_ledger.wording.labels import label
from plucky_ledger.wording.language import say, say_n
from plucky_ledger.wording.reasons import boots_n
from plucky_ledger.wording.safe import shown
from plucky_ledger.wording.spoken import spoken_amount, spoken_dot


@dataclass(frozen=True, kw_only=True)
class RowWords:
    """One line of the book in words."""

    particulars: str
    saved: str
    lost: str
    balance: str
    remark: str
    spoken: str
    """The line as one sentence, for who cannot see it."""
    boots: str
    """What its dots show, for the same."""


def row_in_words(row: BookRow) -> RowWords:
    """A line of the book in words."""
    return _in_words(row, _particulars(row), _remark(row))


def folded_in_words(row: BookRow, fold: Fold) -> RowWords:
    """One line for several; ``row`` holds what all of them hold."""
    parts = [day(row.first_boot_at)] if row.first_boot_at is not None else []
    lines = say_n("{n} line", "{n} lines", fold.last - fold.first + 1)
    remark = " · ".join([*parts, counts_in_words(row.boots), lines])
    return _in_words(row, fold_in_words(fold), remark)


def _in_words(row: BookRow, sentence: str, remark: str) -> RowWords:
    measure = row.measure
    saved = units(row.saved_units, measure) if row.saved_units else ""
    lost = units(row.lost_units, measure) if row.lost_units else ""
    balance = _balance(row.balance, measure)
    return RowWords(
        particulars=sentence,
        saved=saved,
        lost=lost,
        balance=balance,
        remark=remark,
        spoken=_spoken(row, sentence, (saved, lost, balance), remark),
        boots=" · ".join(spoken_dot(dot, measure) for dot in row.dots),
    )


def fold_in_words(fold: Fold) -> str:
    """What several lines of the book are, shown as one."""
    words = {FoldKind.TURNS: say("Boots in turns"), FoldKind.NIGHT: say("Night shift")}
    return words[fold.kind]


def _spoken(row: BookRow, sentence: str, amounts: tuple[str, str, str], remark: str) -> str:
    saved, lost, balance = (
        spoken_amount(amount, row.measure) if amount else "" for amount in amounts
    )
    parts = [sentence]
    if row.state:
        parts.append(label(row.state))
    if saved:
        parts.append(say("saved {amount}", amount=saved))
    if lost:
        parts.append(say("lost {amount}", amount=lost))
    parts.append(say("balance {amount}", amount=balance) if balance else say("no balance yet"))
    return ", ".join([*parts, remark])


def change_in_words(change: Change) -> str:
    """One change, such as "Foghorn Notify switched off"."""
    if change.outside:
        return say("Made elsewhere: {what}", what=_what(replace(change, outside=False)))
    return _what(change)


def _what(change: Change) -> str:
    if change.put_back:
        return say("put back: {what}", what=_with_values(change))
    if change.new_state is None:
        return _with_values(change)
    return _SET[change.new_state](change.what)


def _with_values(change: Change) -> str:
    if change.before and change.after:
        return say(
            "{what} ({before} → {after})",
            what=change.what,
            before=change.before,
            after=change.after,
        )
    return change.what


_SET: Mapping[EntryState, Callable[[str], str]] = {
    EntryState.ON: lambda name: say("{name} switched on again", name=name),
    EntryState.OFF: lambda name: say("{name} switched off", name=name),
    EntryState.LATER: lambda name: say("{name} starts later", name=name),
    EntryState.OFF_FOR_GOOD: lambda name: say("{name} switched off for good", name=name),
    EntryState.WHEN_NEEDED: lambda name: say("{name} starts when needed", name=name),
    EntryState.OFF_HERE: lambda name: say("{name} off in this desktop", name=name),
    EntryState.AS_DELIVERED: lambda name: say("{name} at vendor default", name=name),
}


def particulars(posting: Posting, put_back: Posting | None = None) -> str:
    """What a posting did, in one line. ``put_back`` is the posting it undoes."""
    if posting.opens_visit and posting.posted_at is not None:
        came = say("Taken in again, {day}", day=day(posting.posted_at))
        return shown(f"{came}: {posting.title}" if posting.title else came)
    if posting.title:
        return shown(posting.title)
    if put_back is not None:
        return say("Put back: {what}", what=particulars(put_back))
    if not posting.changes:
        return say("No change written down yet")
    first, more = change_in_words(posting.changes[0]), len(posting.changes) - 1
    if not more:
        return shown(first)
    return shown(say_n("{first} and {n} more", "{first} and {n} more", more, first=first))


def line_in_words(job: Job, line: int, counted: bool) -> str:
    """What a line of the book is, such as "opening round · 5 boots"; the last is the whole job."""
    if line >= len(job.rounds):
        return say("the whole job")
    name = say("opening round")
    if line:
        posting = job.postings[line - 1]
        undone = posting.strikes_out
        name = particulars(posting, posting_of(job, undone) if undone is not None else None)
    return f"{name} · {counts_in_words(boot_counts(job.rounds[line]))}" if counted else name


def _particulars(row: BookRow) -> str:
    if row.posting is None:
        return say("Opening round")
    text = particulars(row.posting, row.put_back)
    if row.state is PostingState.PENCILLED:
        return say("Pencilled: {what}", what=text)
    return text


def _balance(balance: Balance | None, measure: Measure) -> str:
    if balance is None:
        return ""
    text = units(balance.units, measure)
    return f"≥ {text}" if balance.at_least else text


def _remark(row: BookRow) -> str:
    if row.state is PostingState.PENCILLED and row.posting is not None:
        if row.expected is not None:
            if row.expected.too_wide:
                return say("too uncertain to predict · not yet done")
            span = expected_at(row.expected, row.measure)
            return say("predicted {span} · not yet done", span=span)
        many = len(row.posting.changes)
        return say_n("{n} change · not yet done", "{n} changes · not yet done", many)
    if row.state is PostingState.POSTED and not row.opens:
        return say("posted · restart due")
    if row.first_boot_at is None:
        return say("no boot recorded yet")
    parts = [day(row.first_boot_at), counts_in_words(row.boots)]
    if row.state is PostingState.STRUCK_OUT:
        parts.append(label(row.state))
    if row.repeats:
        parts.append(as_before(row))
    elif row.shift is not None:
        parts.extend(_what_it_did(row, row.shift))
    elif row.balance is None:
        parts.append(say("none has this measure"))
    return " · ".join(parts)


def _what_it_did(row: BookRow, shift: Shift) -> Iterator[str]:
    yield saved_or_lost(shift)
    if row.expected is not None and not row.expected.too_wide:
        yield say("predicted {value}", value=plain(row.expected.value, row.measure))
    if row.moved is not None:
        yield comes_later(row.moved)


def comes_later(moved: MovedLater) -> str:
    """Work that was only moved, in a few words."""
    return say("{work} only moved", work=with_unit(moved.cpu_seconds, Measure.CPU_WORK))


def as_before(row: BookRow) -> str:
    """Which state the PC came back to."""
    if row.as_after is None:
        return say("as at the opening")
    return say("as after “{what}”", what=particulars(row.as_after))


def counts_in_words(boots: BootCounts) -> str:
    """Such as "5 boots, 1 set aside"."""
    parts = []
    if boots.starts or not boots.at_rest:
        parts.append(boots_n(boots.starts))
    if boots.at_rest:
        parts.append(say_n("{n} reading at rest", "{n} readings at rest", boots.at_rest))
    if boots.aside:
        parts.append(say("{n} set aside", n=boots.aside))
    return ", ".join(parts)


def saved_or_lost(shift: Shift) -> str:
    """A shift in a few words: "saved 12.1 to 16.3", "even", "unproven".

    Where the book's own amount does not lie in that interval it says why.
    """
    span = interval(shift)
    if shift.verdict not in {Verdict.SAVED, Verdict.LOST} or not span:
        return label(shift.verdict)
    saved = shift.verdict is Verdict.SAVED
    told = say("saved {span}", span=span) if saved else say("lost {span}", span=span)
    low, high = shift.low, shift.high
    if low is None or high is None or low <= shift.value <= high:
        return told
    return say("{told}: {why}", told=told, why=why_elsewhere(shift))


def total_saved(page: BookPage) -> str:
    """What was saved in all; empty when nothing."""
    return units(page.saved_units, page.measure) if page.saved_units else ""


def total_lost(page: BookPage) -> str:
    """What was lost in all; empty when nothing."""
    return units(page.lost_units, page.measure) if page.lost_units else ""


def closing(page: BookPage) -> str:
    """The closing balance with its unit; empty without one."""
    if page.closing is None:
        return ""
    text = with_unit(page.closing.value, page.measure)
    return say("{amount} or more", amount=text) if page.closing.at_least else text


def balance_in_words(page: BookPage) -> str:
    """Opening and closing of the book in one line."""
    measure = page.measure
    if page.opening is None or page.closing is None:
        return say("{measure}: no figure yet.", measure=label(measure))
    return say(
        "{measure}: {opening} − saved {saved} + lost {lost} = {closing}",
        measure=label(measure),
        opening=plain(page.opening.value, measure),
        saved=units(page.saved_units, measure),
        lost=units(page.lost_units, measure),
        closing=with_unit(page.closing.value, measure),
    )


def next_button(page: BookPage) -> str:
    """What the button at the foot of the book says."""
    record = say("Arm and restart…") if page.by_restart else say("Record…")
    return {
        NextStepKind.RECORD_OPENING: record,
        NextStepKind.DECIDE: say("Decide…"),
        NextStepKind.POST: say("Post…"),
        NextStepKind.RESTART: record,
        NextStepKind.DRIFT: say("Off for good…"),
        NextStepKind.OUTSIDE: say("Write it down"),
        NextStepKind.TURN: say("Take the next…"),
        NextStepKind.TAKE_TURNS: say("Take turns"),
        NextStepKind.RECORD_MORE: record,
        NextStepKind.STATE: say("Statement"),
    }[page.step.step]


def next_sentence(page: BookPage) -> str:
    """The next step in one sentence."""
    if page.by_restart and page.step.step is NextStepKind.RESTART:
        return say("Arm the recorder and restart: the boot comes into the book by itself.")
    return _NEXT[page.step.step](page.step.count)


_NEXT: Mapping[NextStepKind, Callable[[int], str]] = {
    NextStepKind.RECORD_OPENING: lambda count: say_n(
        "Record {n} opening boot before you change anything.",
        "Record {n} opening boots before you change anything.",
        count,
    ),
    NextStepKind.DECIDE: lambda _: say("Decide which entries to switch off or start later."),
    NextStepKind.POST: lambda count: say_n(
        "Post the {n} pencilled change, then restart.",
        "Post the {n} pencilled changes, then restart.",
        count,
    ),
    NextStepKind.RESTART: lambda _: say("Restart the PC, then record that boot."),
    NextStepKind.DRIFT: lambda count: say_n(
        "{n} entry was switched off and started all the same: switch it off for good.",
        "{n} entries were switched off and started all the same: switch them off for good.",
        count,
    ),
    NextStepKind.TURN: lambda count: say_n(
        "Boots in turns: {n} is left.", "Boots in turns: {n} are left.", count
    ),
    NextStepKind.TAKE_TURNS: lambda count: say_n(
        "The PC's own speed changed: {n} more boot, taken in turns, separates that.",
        "The PC's own speed changed: {n} more boots of both states, taken in turns, separate that.",
        count,
    ),
    NextStepKind.OUTSIDE: lambda count: say_n(
        "{n} change was made elsewhere and is not in the book: write it down.",
        "{n} changes were made elsewhere and are not in the book: write them down.",
        count,
    ),
    NextStepKind.RECORD_MORE: lambda count: say_n(
        "Restart and record {n} more boot, to be sure.",
        "Restart and record {n} more boots, to be sure.",
        count,
    ),
    NextStepKind.STATE: lambda _: say(
        "Make the statement for the owner, or write down a further change."
    ),
}
