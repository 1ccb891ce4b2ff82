"""The Verdict lens: round against round, one row per measure."""

from dataclasses import dataclass
from enum import StrEnum

from plucky_ledger.core.book.balance import balance_of
from plucky_ledger.core.book.book import compare_rounds, keep_book
from plucky_ledger.core.book.comparability import Alike, alike, concerns, remarks
from plucky_ledger.core.book.moved_later import MovedLater, moved_later
from plucky_ledger.core.book.next_step import NextStepKind
from plucky_ledger.core.book.states_compared import entries_changed
from plucky_ledger.core.book.turns import turns_for
from plucky_ledger.core.book.verdict import Shift, Verdict, beside_others
from plucky_ledger.core.boots.boot import Boot, counted
from plucky_ledger.core.job.job import Job, posting_of, readings_in
from plucky_ledger.core.job.like_with_like import held_at_the_end
from plucky_ledger.core.job.pc_states import states_of
from plucky_ledger.core.job.postings import Posting
from plucky_ledger.core.values.axes import Span, with_air
from plucky_ledger.core.values.estimates import Estimate
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.core.values.reasons import Reason, ReasonCode
from plucky_ledger.pages.book import Dot, dots


class Compared(StrEnum):
    """What the lens has to show."""

    ROUNDS = "rounds"
    OPENING = "opening"
    """The opening round, against which all is measured."""
    SAME_STATE = "same_state"
    """The PC is back in the state it is held against."""
    NOTHING_MEASURED = "nothing_measured"
    NO_BOOT_YET = "no_boot_yet"


@dataclass(frozen=True, kw_only=True)
class VerdictRow:
    """One measure in both rounds, or in the opening round alone."""

    measure: Measure
    before: tuple[Dot, ...]
    after: tuple[Dot, ...]
    """Those of the opening round where nothing is compared."""
    typical_before: float | None
    typical_after: float | None
    shift: Shift | None
    span: Span
    """Ends of the axis both strips share."""
    expected: Estimate | None = None
    """Where the plan put the later round before it was measured."""

    @property
    def plan_held(self) -> bool | None:
        """Whether it stands where the plan put it; None where nothing was expected, or measured."""
        if self.expected is None or self.typical_after is None:
            return None
        return self.expected.low <= self.typical_after <= self.expected.high


@dataclass(frozen=True)
class RoundName:
    """A round, by the posting it was recorded under; the opening round has none."""

    posting: Posting | None
    put_back: Posting | None
    """The posting which that one undoes."""


@dataclass(frozen=True)
class MoreBoots:
    """What would decide an unproven measure."""

    measure: Measure
    boots: int | None
    """Of the later state; None where no reasonable number would."""
    before: int = 0
    """Of the earlier one."""


@dataclass(frozen=True, kw_only=True)
class VerdictPage:
    """Everything the lens shows."""

    compared: Compared
    measure: Measure
    shift: Shift | None
    """In the measure the book is kept in; None where one side has no figure."""
    before: RoundName | None
    after: RoundName | None
    boots_before: int
    """Boots in the account."""
    boots_after: int
    rows: tuple[VerdictRow, ...]
    concerns: tuple[Reason, ...]
    """What makes the comparison unfair."""
    remarks: tuple[Reason, ...]
    """What was left out."""
    alike: Alike
    to_decide: tuple[MoreBoots, ...]
    decides: NextStepKind | None = None
    """What would decide the book's measure; None where it is decided, or nothing would."""
    moved: MovedLater | None = None
    """Work that is not gone, but comes later."""


def verdict_page(job: Job, measure: Measure, line: int) -> VerdictPage:
    """Line ``line`` of the book against the one before it.

    The index behind the last line stands for the whole job: opening against closing.
    """
    whole = line >= len(job.rounds)
    pair = _whole_pair(job) if whole else _pair(job, measure, line)
    if pair is None:
        return _nothing_to_compare(job, measure, line, whole)
    before, after = pair
    states = states_of(job)
    if states.of_round[before] == states.of_round[after]:
        boots = states.boots(job, before)
        return _lone(Compared.SAME_STATE, measure, boots)
    sides = states.boots(job, before), states.boots(job, after)
    shifts = beside_others(
        {each: compare_rounds(job, each, before, after) for each in Measure}, measure
    )
    posting = job.postings[after - 1]
    expected = {} if whole else posting.expected
    rows = (_row(each, sides, shift, expected.get(each)) for each, shift in shifts.items())
    return VerdictPage(
        compared=Compared.ROUNDS,
        measure=measure,
        shift=shifts[measure],
        before=_name(job, before),
        after=_name(job, after),
        boots_before=len(counted(sides[0])),
        boots_after=len(counted(sides[1])),
        rows=tuple(row for row in rows if row is not None),
        concerns=concerns(*sides, entries_changed(states.of_round[before], states.of_round[after])),
        remarks=(*remarks(*sides), *_when_held(job)),
        alike=alike(*sides),
        to_decide=tuple(
            MoreBoots(each, shift.more_boots, shift.more_before)
            for each, shift in shifts.items()
            if shift is not None and shift.verdict is Verdict.UNPROVEN
            if shift.reason is None or shift.reason.code is not ReasonCode.ONE_OF_MANY
        ),
        decides=None if whole else _decides(job, measure, line, shifts[measure]),
        moved=moved_later(*sides),
    )


def _when_held(job: Job) -> tuple[Reason, ...]:
    """Memory and processes are those of the end of the slow look, where each boot has one."""
    return (Reason(ReasonCode.HELD_LATER),) if held_at_the_end(job) else ()


def _decides(job: Job, measure: Measure, line: int, shift: Shift | None) -> NextStepKind | None:
    """More boots of the state the PC is in, or boots of both in turns."""
    if shift is None or shift.verdict is not Verdict.UNPROVEN:
        return None
    states = states_of(job)
    turns_help = shift.drifts or shift.more_before > 0
    if not turns_help and states.of_round[line] == states.now(job):
        return NextStepKind.RECORD_MORE if shift.more_boots else None
    possible = job.turns is None and turns_for(job, measure, line) is not None
    return NextStepKind.TAKE_TURNS if possible else None


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


def _name(job: Job, index: int) -> RoundName:
    posting = job.postings[index - 1] if index else None
    undone = posting.strikes_out if posting else None
    return RoundName(posting, posting_of(job, undone) if undone is not None else None)


def _nothing_to_compare(job: Job, measure: Measure, line: int, whole: bool) -> VerdictPage:
    if not whole and line != 0:
        return _lone(Compared.NO_BOOT_YET, measure, ())
    boots = states_of(job).boots(job, 0)
    measured = Compared.OPENING if counted(boots) else Compared.NOTHING_MEASURED
    return _lone(measured, measure, boots)


def _lone(compared: Compared, measure: Measure, boots: tuple[Boot, ...]) -> VerdictPage:
    rows = tuple(row for each in Measure if (row := _lone_row(each, boots)) is not None)
    return VerdictPage(
        compared=compared,
        measure=measure,
        shift=None,
        before=None,
        after=None,
        boots_before=0,
        boots_after=0,
        rows=rows,
        concerns=(),
        remarks=(),
        alike=Alike(),
        to_decide=(),
    )


def _row(
    measure: Measure,
    sides: tuple[tuple[Boot, ...], tuple[Boot, ...]],
    shift: Shift | None,
    expected: Estimate | None,
) -> VerdictRow | None:
    before, after = (dots(boots, measure) for boots in sides)
    span = _span((*before, *after), expected)
    if span is None:
        return None
    typical_before, typical_after = (_typical(boots, measure) for boots in sides)
    return VerdictRow(
        measure=measure,
        before=before,
        after=after,
        typical_before=typical_before,
        typical_after=typical_after,
        shift=shift,
        span=span,
        expected=expected,
    )


def _lone_row(measure: Measure, boots: tuple[Boot, ...]) -> VerdictRow | None:
    all_dots = dots(boots, measure)
    span = _span(all_dots)
    if span is None:
        return None
    return VerdictRow(
        measure=measure,
        before=(),
        after=all_dots,
        typical_before=None,
        typical_after=_typical(boots, measure),
        shift=None,
        span=span,
    )


def _typical(boots: tuple[Boot, ...], measure: Measure) -> float | None:
    balance = balance_of(measure, readings_in(boots, measure))
    return balance.value if balance else None


def _span(all_dots: tuple[Dot, ...], expected: Estimate | None = None) -> Span | None:
    values = [dot.value for dot in all_dots]
    if values and expected is not None:
        values.append(expected.value)
    span = with_air(values, 0.0, 0.0, 0.0)
    if span is None:
        return None
    air = (span[1] - span[0]) * 0.1 + abs(span[1]) * 0.005 + 0.1
    return (span[0] - air, span[1] + air)
