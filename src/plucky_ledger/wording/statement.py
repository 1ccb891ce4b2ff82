"""The statement in words, ready for its template."""

from datetime import datetime

from plucky_ledger.core.boots.boot import Boot
from plucky_ledger.core.job.changes import Change
from plucky_ledger.core.job.postings import PostingState
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.exchange.statement import (
    NO_LETTERHEAD,
    WHOLE,
    DoneLine,
    FigureLine,
    Letterhead,
    Parts,
    StartPicture,
    Statement,
)
from plucky_ledger.pages.book import BookRow
from plucky_ledger.pages.folds import Fold, ShownLine
from plucky_ledger.pages.statement import StatementPage
from plucky_ledger.pages.verdict import VerdictRow
from plucky_ledger.wording.advice import for_the_owner
from plucky_ledger.wording.book import (
    as_before,
    change_in_words,
    comes_later,
    fold_in_words,
    particulars,
    saved_or_lost,
)
from plucky_ledger.wording.facts import subtitle
from plucky_ledger.wording.figures import day, day_and_time, whole_day, with_unit
from plucky_ledger.wording.labels import label, unit_word
from plucky_ledger.wording.lanes import legend
from plucky_ledger.wording.language import current_locale, say, say_n
from plucky_ledger.wording.next_pages import for_the_next
from plucky_ledger.wording.owners_page import owners_page_in_words
from plucky_ledger.wording.safe import shown
from plucky_ledger.wording.verdict import (
    answer,
    comparability_in_words,
    only_moved,
    row_explanation,
    shift_in_words,
    stamp_in_words,
)


def statement_in_words(
    page: StatementPage,
    made_at: datetime,
    letterhead: Letterhead = NO_LETTERHEAD,
    parts: Parts = WHOLE,
    starts: tuple[StartPicture, ...] = (),
) -> Statement:
    """The statement as the owner reads it, with some of its parts."""
    book, verdict = page.book, page.verdict
    said = answer(verdict)
    fair = comparability_in_words(verdict)
    return Statement(
        title=shown(book.card.title),
        subtitle=subtitle(book.card, book.facts),
        complaint=shown(book.card.complaint),
        owner=owners_page_in_words(page.owner),
        made_on=say("Statement of {day}", day=whole_day(made_at)),
        answer=f"{said.sentence} {said.stamp}".strip(),
        unit=unit_word(book.measure),
        figures=tuple(_figure(row) for row in verdict.rows),
        done=tuple(_done(line) for line in page.done),
        advice=tuple(map(for_the_owner, page.advised)),
        next=for_the_next(page),
        remarks=tuple(
            sentence
            for sentence in (
                only_moved(verdict.moved),
                say("Conditions: {fair}", fair=fair) if fair else "",
                *_remarks(),
            )
            if sentence
        ),
        headings=_headings(page),
        letterhead=letterhead,
        parts=parts,
        starts=starts,
    )


def start_title(boot: Boot, *, is_first: bool) -> str:
    """What stands above the picture of a start."""
    when = day_and_time(boot.started_at)
    if is_first:
        return say("A usual start at first: {when}", when=when)
    return say("A usual start now: {when}", when=when)


def pcs_of(owner: str) -> str:
    """What heads statements on several PCs."""
    return say("The PCs of {owner}", owner=shown(owner))


def _headings(page: StatementPage) -> dict[str, str]:
    measure, complaint = page.book.measure, shown(page.book.card.complaint)
    return {
        "language": current_locale().replace("_", "-"),
        "number_of": say("Job {label}", label=shown(page.book.card.label)),
        "changed": say("What was changed"),
        "left_on": say("What was left as it was, and why"),
        "open": say("Still open"),
        "signed": say("Date and signature"),
        "details": say("For whoever works on this PC next"),
        "advice_seen": say("What the advice is based on"),
        "complaint": say("Reported problem: “{complaint}”", complaint=complaint),
        "steps": say(
            "{measure}, in {unit}, at first and after each step below:",
            measure=label(measure),
            unit=unit_word(measure) or say("number"),
        ),
        "picture": say("Balances, one column a step"),
        "opening": say("opening"),
        "before_and_after": say("Before and after"),
        "what": say("What"),
        "at_first": say("At first"),
        "now": say("Now"),
        "difference": say("Difference (95\u00a0% interval)"),
        "verdict": say("Verdict"),
        "done": say("What was done"),
        "number": say("No."),
        "day": say("Day"),
        "result": say("Result"),
        "balance": say("Balance"),
        "advice": say("What is advised"),
        "reading": say("How to read this"),
        "entries": say("Every startup entry"),
        "kind": say("Kind"),
        "cost": say("Settled later by"),
        "decision": say("Decision"),
        "why": say("Reason"),
        "boots": say("Every boot"),
        "starts": say("What worked while it started"),
        "legend": legend(),
        "line": say("Line"),
        "begun": say("Begun"),
        "how": say("How"),
        "figure": label(measure),
        "remark": say("Remark"),
        "put_back": say("Tried and put back"),
        "facts": say("This PC"),
        "undo": say("How to undo everything"),
    }


def _remarks() -> tuple[str, ...]:
    return (
        say(
            "Every step was measured over several starts of the PC. The balance is their typical "
            "value; the time a person takes to sign in is not counted."
        ),
        say(
            "Saved or lost means that the difference is larger than the starts differ among "
            "themselves and large enough to notice. Even means that nothing noticeable changed. "
            "Unproven means that the starts differ too much to say."
        ),
    )


def _amount(value: float | None, measure: Measure) -> str:
    return "" if value is None else with_unit(value, measure)


def _figure(row: VerdictRow) -> FigureLine:
    lone = not row.before and row.shift is None
    return FigureLine(
        title=label(row.measure),
        explanation=row_explanation(row),
        before=_amount(row.typical_after if lone else row.typical_before, row.measure),
        after="" if lone else _amount(row.typical_after, row.measure),
        shift="" if lone else shift_in_words(row.shift),
        verdict=stamp_in_words(row),
    )


def _done(line: ShownLine) -> DoneLine:
    if line.fold is not None:
        return _folded(line.row, line.fold)
    row = line.row
    posting, starts = row.posting, row.boots.starts + row.boots.at_rest
    when = posting.posted_at if posting else row.first_boot_at
    changes = posting.changes if posting else ()
    struck_out = row.state is PostingState.STRUCK_OUT
    return DoneLine(
        day=day(when) if when else "",
        particulars=particulars(posting, row.put_back) if posting else say("As the PC came"),
        details=tuple(shown(_detail(change)) for change in changes),
        result=_result(row, starts, struck_out),
        struck_out=struck_out,
        balance=row.typical,
        balance_text=_amount(row.typical, row.measure),
    )


def _folded(row: BookRow, fold: Fold) -> DoneLine:
    starts = row.boots.starts + row.boots.at_rest
    return DoneLine(
        day=day(row.first_boot_at) if row.first_boot_at else "",
        particulars=fold_in_words(fold),
        details=(),
        result=_measured_over(starts),
        struck_out=False,
        balance=row.typical,
        balance_text=_amount(row.typical, row.measure),
    )


def _measured_over(starts: int) -> str:
    over = say_n("{n} start", "{n} starts", starts)
    return say("measured over {starts}", starts=over) if starts else say("no start recorded yet")


def _result(row: BookRow, starts: int, struck_out: bool) -> str:
    over, result = say_n("{n} start", "{n} starts", starts), _measured_over(starts)
    if row.repeats:
        result = f"{as_before(row)}, {over}"
    elif row.shift is not None:
        result = f"{saved_or_lost(row.shift)}, {over}"
        if row.moved is not None:
            result = f"{result}, {comes_later(row.moved)}"
    return say("{result}; put back", result=result) if struck_out else result


def _detail(change: Change) -> str:
    what = change_in_words(change)
    return f"{what}: {change.why}" if change.why else what
