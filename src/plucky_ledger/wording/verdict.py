"""The Verdict lens in words: the answer, what it rests on, and what would decide the rest."""

from collections.abc import Mapping
from dataclasses import dataclass

from plucky_ledger.core.book.comparability import Alike, Side
from plucky_ledger.core.book.moved_later import MovedLater
from plucky_ledger.core.book.next_step import NextStepKind
from plucky_ledger.core.book.verdict import Shift, Verdict
from plucky_ledger.core.boots.boot import How
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.core.values.reasons import ReasonCode
from plucky_ledger.pages.verdict import Compared, MoreBoots, RoundName, VerdictPage, VerdictRow
from plucky_ledger.wording.book import particulars
from plucky_ledger.wording.figures import about_so_long, between, percent, plain, signed, with_unit
from plucky_ledger.wording.intervals import (
    LIKELY_WRONG,
    expected_at,
    interval,
    last_place,
    signed_interval,
    why_elsewhere,
)
from plucky_ledger.wording.labels import capital, explanation, label, unit_word, within
from plucky_ledger.wording.language import N_, all_of, say, say_n
from plucky_ledger.wording.reasons import boots_n, in_one_line, reason_in_words
from plucky_ledger.wording.spoken import SpokenRow, spoken_amount, spoken_dot


@dataclass(frozen=True)
class VerdictAnswer:
    """The verdict as one sentence, and the verdict word."""

    sentence: str
    strong: str
    """The part of the sentence that is set bold."""
    stamp: str


@dataclass(frozen=True, kw_only=True)
class _Phrases:
    """What is answered in one measure, in whole sentences."""

    changed: str
    less: str
    more: str
    """The shift in ``changed``."""
    even: str
    unproven: str
    no_figure: str


_PHRASES: Mapping[Measure, _Phrases] = {
    Measure.READY: _Phrases(
        changed=N_("The PC is ready {shift}."),
        less=N_("{amount} sooner"),
        more=N_("{amount} later"),
        even=N_("When the PC is ready has not changed."),
        unproven=N_("When the PC is ready may or may not have changed."),
        no_figure=N_("When the PC is ready has no figure in one of the rounds."),
    ),
    Measure.SETTLED: _Phrases(
        changed=N_("The PC settles {shift}."),
        less=N_("{amount} sooner"),
        more=N_("{amount} later"),
        even=N_("When the PC settles has not changed."),
        unproven=N_("When the PC settles may or may not have changed."),
        no_figure=N_("When the PC settles has no figure in one of the rounds."),
    ),
    Measure.SYSTEM_UP: _Phrases(
        changed=N_("The system is up {shift}."),
        less=N_("{amount} sooner"),
        more=N_("{amount} later"),
        even=N_("When the system is up has not changed."),
        unproven=N_("When the system is up may or may not have changed."),
        no_figure=N_("When the system is up has no figure in one of the rounds."),
    ),
    Measure.CPU_WORK: _Phrases(
        changed=N_("Starting needs {shift}."),
        less=N_("{amount} less"),
        more=N_("{amount} more"),
        even=N_("The CPU work of starting has not changed."),
        unproven=N_("The CPU work of starting may or may not have changed."),
        no_figure=N_("The CPU work of starting has no figure in one of the rounds."),
    ),
    Measure.DISK_READ: _Phrases(
        changed=N_("Starting reads {shift}."),
        less=N_("{amount} less"),
        more=N_("{amount} more"),
        even=N_("What starting reads has not changed."),
        unproven=N_("What starting reads may or may not have changed."),
        no_figure=N_("What starting reads has no figure in one of the rounds."),
    ),
    Measure.MEMORY_HELD: _Phrases(
        changed=N_("At rest the PC holds {shift}."),
        less=N_("{amount} less"),
        more=N_("{amount} more"),
        even=N_("What the PC holds at rest has not changed."),
        unproven=N_("What the PC holds at rest may or may not have changed."),
        no_figure=N_("What the PC holds at rest has no figure in one of the rounds."),
    ),
    Measure.PROCESSES: _Phrases(
        changed=N_("At rest the PC runs {shift}."),
        less=N_("{amount} processes fewer"),
        more=N_("{amount} processes more"),
        even=N_("How many processes run at rest has not changed."),
        unproven=N_("How many processes run at rest may or may not have changed."),
        no_figure=N_("How many processes run at rest has no figure in one of the rounds."),
    ),
    Measure.LOAD_AT_REST: _Phrases(
        changed=N_("At rest the PC is {shift}."),
        less=N_("{amount} less busy"),
        more=N_("{amount} busier"),
        even=N_("How busy the PC is at rest has not changed."),
        unproven=N_("How busy the PC is at rest may or may not have changed."),
        no_figure=N_("How busy the PC is at rest has no figure in one of the rounds."),
    ),
}


def answer(page: VerdictPage) -> VerdictAnswer:
    """The verdict as one sentence: all of it, its bold part, and the verdict word."""
    if page.compared is Compared.OPENING:
        return VerdictAnswer(say("Opening boots: later boots are compared with these."), "", "")
    if page.compared is Compared.SAME_STATE:
        return VerdictAnswer(say("The PC is in the state it was in before."), "", "")
    if page.compared is Compared.NOTHING_MEASURED:
        return VerdictAnswer(say("Nothing has been measured yet."), "", "")
    if page.compared is Compared.NO_BOOT_YET:
        return VerdictAnswer(say("No boot recorded yet."), "", "")
    return _compared(page.measure, page.shift)


def _compared(measure: Measure, shift: Shift | None) -> VerdictAnswer:
    phrases = _PHRASES[measure]
    if shift is None:
        return VerdictAnswer(say(phrases.no_figure), "", "")
    stamp = f"{capital(label(shift.verdict))}."
    if shift.verdict in {Verdict.SAVED, Verdict.LOST}:
        change = phrases.less if shift.verdict is Verdict.SAVED else phrases.more
        strong = say(change, amount=with_unit(abs(shift.estimate), measure))
        return VerdictAnswer(say(phrases.changed, shift=strong), strong, stamp)
    if shift.verdict is Verdict.EVEN:
        return VerdictAnswer(say(phrases.even), say("has not changed"), stamp)
    return VerdictAnswer(say(phrases.unproven), say("may or may not"), stamp)


def basis(page: VerdictPage) -> str:
    """What the verdict rests on."""
    if page.compared is Compared.OPENING:
        return say("Post a change, restart and record: then the rounds are compared here.")
    if page.compared is Compared.SAME_STATE:
        return say("All its boots in that state belong together, whenever they were recorded.")
    if page.compared is Compared.NOTHING_MEASURED:
        return say("Record the opening boots before you change anything.")
    if page.compared is Compared.NO_BOOT_YET:
        return say("Restart the PC and record its boots: then the verdict stands here.")
    sentence = say(
        "{before} before and {after} after",
        before=boots_n(page.boots_before),
        after=page.boots_after,
    )
    shift = page.shift
    if shift is None:
        return sentence
    if amount := _reach(shift):
        sentence = say("95 % interval {amount}, from {boots}", amount=amount, boots=sentence)
    if _lies_elsewhere(shift):
        sentence += "; " + say(
            "the typical boots differ by {amount}, but {why}",
            amount=signed(shift.value, shift.measure),
            why=why_elsewhere(shift),
        )
    return f"{sentence}. {reason_in_words(shift.reason)}" if shift.reason else sentence


def _reach(shift: Shift) -> str:
    """The interval in the words of the answer, such as "10.9 to 12.9 s sooner"."""
    phrases, measure = _PHRASES[shift.measure], shift.measure
    low, high = shift.low, shift.high
    if low is None or high is None:
        return f"{interval(shift)} {measure.terms.unit}".strip() if interval(shift) else ""
    if low < 0 < high:
        return say(
            "{less} to {more}",
            less=say(phrases.less, amount=with_unit(-low, measure)),
            more=say(phrases.more, amount=with_unit(high, measure)),
        )
    near, far = sorted((abs(low), abs(high)))
    span = between(plain(near, measure), with_unit(far, measure))
    return say(phrases.less if high <= 0 else phrases.more, amount=span)


def _lies_elsewhere(shift: Shift) -> bool:
    """Whether the estimate differs from the book's amount by what would be asked about."""
    least = max(2 * last_place(shift.measure), 0.1 * abs(shift.estimate))
    return abs(shift.estimate - shift.value) > least


def went_wrong(page: VerdictPage) -> str:
    """The boots that more likely than not went wrong; empty where none did."""
    shift = page.shift
    if shift is None:
        return ""
    named = [
        say(
            "boot {place} {side} ({chance})",
            place=place + 1,
            side=label(side),
            chance=percent(chance),
        )
        for side, chances in zip(Side, shift.wrong, strict=True)
        for place, chance in enumerate(chances)
        if chance > LIKELY_WRONG
    ]
    return say("{boots}. Each counts only in part.", boots=", ".join(named)) if named else ""


def only_moved(moved: MovedLater | None) -> str:
    """Work that is not gone, but comes later; empty where there is none."""
    if moved is None:
        return ""
    work, more = with_unit(moved.cpu_seconds, Measure.CPU_WORK), len(moved.names) - 1
    names = moved.names[0]
    if more:
        names = say_n("{first} and {n} more", "{first} and {n} more", more, first=names)
    if moved.after_sign_in is None:
        return say(
            "Only moved: {work} of {names} now come after it has settled.", work=work, names=names
        )
    return say(
        "Only moved: {work} of {names} now come {when} after sign-in.",
        work=work,
        names=names,
        when=about_so_long(moved.after_sign_in),
    )


def legend(page: VerdictPage) -> str:
    """Which round is drawn how; empty where nothing is compared."""
    if page.before is None or page.after is None:
        return ""
    return say(
        "upper row: before ({before}) · lower row: after ({after})",
        before=_name(page.before),
        after=_name(page.after),
    )


def _name(name: RoundName) -> str:
    if name.posting is None:
        return say("opening round")
    return say("“{what}”", what=particulars(name.posting, name.put_back))


def spoken_sides(row: VerdictRow) -> tuple[SpokenRow, ...]:
    """The boots of both sides as they are read out."""
    both = (
        (say("Before"), row.before, row.typical_before),
        (say("After"), row.after, row.typical_after),
    )
    return tuple(
        SpokenRow(
            name, (*_typical(typical, row.measure), *(spoken_dot(dot, row.measure) for dot in dots))
        )
        for name, dots, typical in both
        if dots
    )


def _typical(value: float | None, measure: Measure) -> tuple[str, ...]:
    return (
        ()
        if value is None
        else (say("typical {value}", value=spoken_amount(plain(value, measure), measure)),)
    )


def row_explanation(row: VerdictRow) -> str:
    """Unit and what is read, under the measure's name."""
    return f"{unit_word(row.measure)} {explanation(row.measure)}".strip()


def row_shift(row: VerdictRow) -> str:
    """Such as "−14.2 (12.1 to 16.3)"; in words where there is none."""
    if not row.before and row.shift is None:
        typical = row.typical_after
        return with_unit(typical, row.measure) if typical is not None else ""
    return shift_in_words(row.shift)


def shift_in_words(shift: Shift | None) -> str:
    """A shift with its interval."""
    if shift is None:
        return say("measured on one side only")
    text, span = signed(shift.estimate, shift.measure), signed_interval(shift)
    return f"{text} ({span})" if span else say("{shift} (no spread yet)", shift=text)


_UNPROVEN_BECAUSE: Mapping[ReasonCode, str] = {
    ReasonCode.FEW_BOOTS: N_("too few boots"),
    ReasonCode.NOT_SURE_ENOUGH: N_("not sure enough yet"),
    ReasonCode.PARTLY_NOTICEABLE: N_("may be too small to notice"),
    ReasonCode.MACHINE_DECIDES: N_("the PC's own speed changed"),
    ReasonCode.LINE_OR_STEP: N_("the boots get steadily slower or quicker"),
    ReasonCode.ONE_OF_MANY: N_("not sure enough, one of 8"),
    ReasonCode.MAY_BE_ANOTHERS: N_("may be another program's"),
    ReasonCode.NOT_SETTLED_IN_RECORDING: N_("not settled while recorded"),
}


def why_unproven(row: VerdictRow) -> str:
    """In a few words why a shift is unproven; empty where its interval alone says it."""
    shift = row.shift
    if shift is None or shift.reason is None or shift.verdict is not Verdict.UNPROVEN:
        return ""
    if shift.low is not None and shift.high is not None and shift.low < 0 < shift.high:
        return ""
    few_words = _UNPROVEN_BECAUSE.get(shift.reason.code)
    return say(few_words) if few_words else ""


def stamp_in_words(row: VerdictRow) -> str:
    """The verdict on a measure, and why where its interval does not say it; empty without one."""
    if row.shift is None:
        return ""
    stamp, why = label(row.shift.verdict), why_unproven(row)
    return f"{stamp}: {why}" if why else stamp


def comparability_in_words(page: VerdictPage) -> str:
    """What makes the comparison unfair, or what is known to be alike; empty without one."""
    if page.compared is not Compared.ROUNDS:
        return ""
    remarks = in_one_line(page.remarks)
    sentence = in_one_line(page.concerns) if page.concerns else _alike(page.alike)
    return f"{sentence} {remarks}".strip()


def _alike(same: Alike) -> str:
    parts = []
    if same.kernel:
        parts.append(say("same kernel"))
    if same.start_kind is not None:
        parts.append(say("all {kind}s", kind=label(same.start_kind)))
    if same.power_source is not None:
        parts.append(say("on {source}", source=label(same.power_source)))
    if same.how is not None:
        parts.append(say("all {how}", how=label(How(same.how))))
    text = ", ".join(parts)
    return f"{capital(text)}." if text else say("Nothing known makes it unfair.")


def as_expected(page: VerdictPage) -> str:
    """What the plan said against what was measured; empty where there was none."""
    return " ".join(_against_the_plan(row) for row in page.rows if row.plan_held is not None)


def _against_the_plan(row: VerdictRow) -> str:
    assert row.expected is not None
    assert row.typical_after is not None
    facts: dict[str, str] = {
        "measure": label(row.measure),
        "expected": with_unit(row.expected.value, row.measure),
        "span": expected_at(row.expected, row.measure),
        "measured": with_unit(row.typical_after, row.measure),
    }
    if row.expected.too_wide:
        return say(
            "{measure}: the prediction was too uncertain to be of use ({span}); "
            "measured {measured}.",
            **facts,
        )
    figures = say("{measure}: predicted {expected} ({span}), measured {measured}", **facts)
    held = say("as predicted") if row.plan_held else say("not as predicted")
    return f"{figures}: {held}."


def to_decide(page: VerdictPage) -> str:
    """How many more boots would decide what is unproven; empty when all is decided."""
    needs = [
        say("{boots} for {measure}", boots=_more(more), measure=within(label(more.measure)))
        for more in page.to_decide
        if more.boots is not None
    ]
    hopeless = [within(label(more.measure)) for more in page.to_decide if more.boots is None]
    sentences = [f"{', '.join(needs)}."] if needs else []
    if hopeless:
        sentences.append(
            say(
                "For {measures} no reasonable number of boots would decide it.",
                measures=all_of(hopeless),
            )
        )
    return " ".join(sentences)


def decides(page: VerdictPage) -> str:
    """What the button that would decide it says; empty where there is none."""
    if page.decides is NextStepKind.TAKE_TURNS:
        return say("Take boots in turns")
    return say("Record…") if page.decides is NextStepKind.RECORD_MORE else ""


def _more(more: MoreBoots) -> str:
    assert more.boots is not None
    if not more.before:
        return say_n("{n} more boot", "{n} more boots", more.boots)
    before = say_n("{n} more boot before", "{n} more boots before", more.before)
    if not more.boots:
        return before
    return say("{before} and {after} after", before=before, after=more.boots)
