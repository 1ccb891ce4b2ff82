"""The Verdict lens: round against round, in one sentence and one row per measure."""

from dataclasses import dataclass

from plucky_ledger.core.book.balance import balance_of
from plucky_ledger.core.book.book import compare_rounds, keep_book
from plucky_ledger.core.book.fairness import concerns, set_aside_remarks
from plucky_ledger.core.book.job import Job, readings_in
from plucky_ledger.core.book.verdict import Shift, Verdict
from plucky_ledger.core.boots.boot import Boot, counted
from plucky_ledger.core.measures import Measure
from plucky_ledger.pages.book import Dot, dots
from plucky_ledger.wording.figures import count, interval, plain, signed, with_unit


@dataclass(frozen=True)
class VerdictRow:
    """One measure in both rounds."""

    measure: Measure
    title: str
    explanation: str
    before: tuple[Dot, ...]
    after: tuple[Dot, ...]
    typical_before: float | None
    typical_after: float | None
    shift: str
    """Such as "−14.2 (12.1 to 16.3)"; a reason in words where there is none."""
    verdict: Verdict | None


@dataclass(frozen=True)
class VerdictPage:
    """Everything the lens shows. ``answer`` and ``stamp`` are the sentence's two parts."""

    answer: str
    strong: str
    """The part of ``answer`` that is set bold."""
    stamp: str
    basis: str
    """What the verdict rests on."""
    legend: str
    """Which round is drawn how."""
    rows: tuple[VerdictRow, ...]
    fair: str
    to_decide: str


def verdict_page(job: Job, measure: Measure, line: int) -> VerdictPage:
    """Line ``line`` of the book against the one before it.

    The index behind the last line stands for the whole job: opening against closing.
    """
    book = keep_book(job, measure)
    whole = line >= len(book.lines)
    pair = _whole_pair(job) if whole else _pair(job, measure, line)
    if pair is None:
        return _nothing_to_compare(job, line, whole)
    before, after = pair
    sides = job.rounds[before], job.rounds[after]
    shift = compare_rounds(job, measure, before, after)
    rows = tuple(_row(job, other, before, after) for other in Measure)
    answer, strong, stamp = sentence(shift, measure)
    return VerdictPage(
        answer=answer,
        strong=strong,
        stamp=stamp,
        basis=_basis(shift, sides),
        legend=f"above: {_name(job, before)} · below: {_name(job, after)}",
        rows=tuple(row for row in rows if row.before or row.after),
        fair=_fair(*sides),
        to_decide=_to_decide(job, before, after),
    )


def _pair(job: Job, measure: Measure, line: int) -> tuple[int, int] | None:
    """The two rounds a line stands for: it and the last before it that was measured.

    Without a balance in ``measure`` the rounds are still those that would be compared.
    """
    compared = keep_book(job, measure).lines[line].compared_with
    if compared is not None:
        return compared, line
    earlier = [i for i in range(line) if counted(job.rounds[i])]
    return (earlier[-1], line) if earlier and counted(job.rounds[line]) else None


def _whole_pair(job: Job) -> tuple[int, int] | None:
    measured = [i for i, boots in enumerate(job.rounds) if counted(boots)]
    return (measured[0], measured[-1]) if len(measured) > 1 else None


def _name(job: Job, index: int) -> str:
    return "opening round" if index == 0 else f"“{job.postings[index - 1].particulars}”"


def _nothing_to_compare(job: Job, line: int, whole: bool) -> VerdictPage:
    rows: tuple[VerdictRow, ...] = ()
    if whole or line == 0:
        answer = "This is what it is measured against."
        basis = "Post a change, restart and record: then the rounds are compared here."
        if not counted(job.opening_boots):
            answer = "Nothing has been measured yet."
            basis = "Record the opening boots before anything is touched."
        rows = tuple(_lone_row(job.opening_boots, measure) for measure in Measure)
    else:
        answer = "No boot recorded yet."
        basis = "Restart the PC and record its boots: then the verdict stands here."
    return VerdictPage(answer, "", "", basis, "", tuple(row for row in rows if row.after), "", "")


def _lone_row(boots: tuple[Boot, ...], measure: Measure) -> VerdictRow:
    balance = balance_of(measure, readings_in(boots, measure))
    return VerdictRow(
        measure, measure.terms.title, measure.terms.explanation, (),
        tuple(dots(boots, measure)), None, balance.value if balance else None,
        with_unit(balance.value, measure) if balance else "", None,
    )  # fmt: skip


def _row(job: Job, measure: Measure, before: int, after: int) -> VerdictRow:
    sides = job.rounds[before], job.rounds[after]
    shift = compare_rounds(job, measure, before, after)
    return VerdictRow(
        measure=measure,
        title=measure.terms.title,
        explanation=f"{measure.terms.unit_word} {measure.terms.explanation}".strip(),
        before=tuple(dots(sides[0], measure)),
        after=tuple(dots(sides[1], measure)),
        typical_before=shift.before.value if shift else None,
        typical_after=shift.after.value if shift else None,
        shift=_shift_text(shift),
        verdict=shift.verdict if shift else None,
    )


def _shift_text(shift: Shift | None) -> str:
    if shift is None:
        return "measured on one side only"
    text = signed(shift.value, shift.measure)
    span = interval(shift)
    return f"{text} ({span})" if span else f"{text} (no spread yet)"


_ANSWERS: dict[Measure, tuple[str, str, str, str]] = {
    Measure.READY: ("It is ready", "{} sooner", "{} later", "When it is ready"),
    Measure.SETTLED: ("It settles", "{} sooner", "{} later", "When it settles"),
    Measure.SYSTEM_UP: ("The system is up", "{} sooner", "{} later", "When the system is up"),
    Measure.CPU_WORK: ("To start it needs", "{} less", "{} more", "The CPU work of starting"),
    Measure.DISK_READ: ("To start it reads", "{} less", "{} more", "What it reads to start"),
    Measure.MEMORY_HELD: ("At rest it holds", "{} less", "{} more", "What it holds at rest"),
    Measure.PROCESSES: ("At rest it runs", "{} processes fewer", "{} processes more",
                        "How many processes it runs"),
    Measure.LOAD_AT_REST: ("At rest it is", "{} less busy", "{} busier", "How busy it is at rest"),
}  # fmt: skip
"""Beginning, end when saved, end when lost, and what it is called when neither."""


def sentence(shift: Shift | None, measure: Measure) -> tuple[str, str, str]:
    """The verdict as one sentence: all of it, its bold part, and the verdict word."""
    begin, less, more, subject = _ANSWERS[measure]
    if shift is None:
        return f"{subject} has no figure in one of the rounds.", "", ""
    amount = with_unit(abs(shift.value), measure)
    stamp = f"{str(shift.verdict).capitalize()}."
    if shift.verdict is Verdict.SAVED:
        strong = less.format(amount)
        return f"{begin} {strong}.", strong, stamp
    if shift.verdict is Verdict.LOST:
        strong = more.format(amount)
        return f"{begin} {strong}.", strong, stamp
    if shift.verdict is Verdict.EVEN:
        return f"{subject} is as it was.", "as it was", stamp
    return f"{subject} may or may not have changed.", "may or may not", stamp


def _basis(shift: Shift | None, sides: tuple[tuple[Boot, ...], tuple[Boot, ...]]) -> str:
    told = f"{count(len(counted(sides[0])), 'boot')} before and {len(counted(sides[1]))} after"
    if shift is None:
        return told
    span = interval(shift)
    if span:
        told = f"95 % interval {span} {shift.measure.terms.unit}".rstrip() + f", from {told}"
    if shift.adjusted is not None:
        adjusted = signed(shift.adjusted, shift.measure)
        told += f"; {adjusted} if the machine's own speed is taken out entirely"
    return f"{told}. {shift.reason}" if shift.reason else told


def _fair(before: tuple[Boot, ...], after: tuple[Boot, ...]) -> str:
    found = [*concerns(before, after), *set_aside_remarks(before, after)]
    if len(found) > len(set_aside_remarks(before, after)):
        return " ".join(found)
    return " ".join([_alike(before, after), *found])


def _alike(before: tuple[Boot, ...], after: tuple[Boot, ...]) -> str:
    """What is known to be the same on both sides."""
    boots = (*counted(before), *counted(after))
    if not boots:
        return ""
    same = []
    if len({boot.context.kernel for boot in boots}) == 1 and boots[0].context.kernel:
        same.append("same kernel")
    kinds = {str(boot.context.start_kind) for boot in boots}
    if len(kinds) == 1 and "unknown" not in kinds:
        same.append(f"all {kinds.pop()}s")
    if len({boot.context.power_source for boot in boots}) == 1 and boots[0].context.power_source:
        same.append(f"on {boots[0].context.power_source}")
    if len({boot.how for boot in boots}) == 1:
        same.append(f"all {boots[0].how}")
    text = ", ".join(same)
    return f"{text[0].upper()}{text[1:]}." if text else "Nothing is known that makes it unfair."


def _to_decide(job: Job, before: int, after: int) -> str:
    """How many more boots would decide what is unproven."""
    needs, hopeless = [], []
    for measure in Measure:
        shift = compare_rounds(job, measure, before, after)
        if shift is None or shift.verdict is not Verdict.UNPROVEN:
            continue
        title = measure.terms.title.lower()
        if shift.more_boots is None:
            hopeless.append(title)
        else:
            needs.append(f"{count(shift.more_boots, 'more boot')} for {title}")
    sentences = []
    if needs:
        sentences.append(f"{', '.join(needs)}.")
    if hopeless:
        sentences.append(
            f"For {' and '.join(hopeless)} no reasonable number of boots would decide it."
        )
    return " ".join(sentences)


def balance_in_words(job: Job, measure: Measure) -> str:
    """Opening and closing of the book in one line."""
    book = keep_book(job, measure)
    if book.opening is None or book.closing is None:
        return f"{measure.terms.title}: no figure yet."
    opening, closing = book.opening.value, book.closing.value
    return (
        f"{measure.terms.title}: {plain(opening, measure)} − saved "
        f"{plain(book.saved_units / 10**measure.terms.decimals, measure)} + lost "
        f"{plain(book.lost_units / 10**measure.terms.decimals, measure)} = "
        f"{with_unit(closing, measure)}"
    )
