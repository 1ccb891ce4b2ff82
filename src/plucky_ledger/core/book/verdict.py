"""Round against round: the shift, its interval, and an honest verdict."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from plucky_ledger.core.book.balance import Balance, balance_of
from plucky_ledger.core.book.drift import Drift
from plucky_ledger.core.book.spread import Spread, spread_of, standard_error, student_t
from plucky_ledger.core.measures import Measure, Reading, noticeable_band
from plucky_ledger.core.reasons import Reason, ReasonCode
from plucky_ledger.core.trouble import Fact

WORTH_BOOTS = 12
"""Asking for more boots a side than this is not worth a technician's time."""


class Verdict(StrEnum):
    """What can honestly be said of a posting in one measure."""

    SAVED = "saved"
    LOST = "lost"
    EVEN = "even"
    UNPROVEN = "unproven"


@dataclass(frozen=True)
class Shift:
    """How a measure moved from one round to the next, in the measure's unit."""

    measure: Measure
    before: Balance
    after: Balance
    low: float | None
    """Lower end of the 95 % interval of after − before; None when there is no spread to go by."""
    high: float | None
    verdict: Verdict
    more_boots: int | None
    """For unproven: boots still needed in the later round (and as many before, if it has fewer).
    None when decided, or when no reasonable number would decide it."""
    reason: Reason | None
    """For unproven: why. Otherwise what the interval rests on, where that is unusual."""
    drift: Drift | None = None
    """How much the machine itself moved, if it did."""
    adjusted: float | None = None
    """After − before with that drift taken out of the whole figure, in the measure's unit. The
    truth lies between this and the plain shift: waiting gets no shorter on a faster machine."""

    @property
    def units(self) -> int:
        """After − before, in whole book units: negative is saved."""
        return self.after.units - self.before.units

    @property
    def value(self) -> float:
        """After − before in the measure's unit: negative is saved."""
        return self.after.value - self.before.value


def shift_between(
    measure: Measure,
    before: Sequence[Reading],
    after: Sequence[Reading],
    other_rounds: Sequence[Sequence[float]] = (),
) -> Shift | None:
    """Compare two rounds in one measure; None when either has no reading.

    ``other_rounds`` are the figures of this job's other rounds: they tell how much this PC's boots
    differ among themselves, which is what few boots a side cannot.
    """
    start, end = balance_of(measure, before), balance_of(measure, after)
    if start is None or end is None:
        return None
    values = [[reading.value for reading in side] for side in (before, after)]
    spread = spread_of(measure, values, other_rounds)
    if spread is None:
        return Shift(
            measure, start, end, None, None, Verdict.UNPROVEN, _first_spread_needs(start, end),
            Reason(ReasonCode.NO_SPREAD),
        )  # fmt: skip
    half = student_t(spread.degrees) * standard_error(spread, start, end)
    middle = end.value - start.value
    return _judged(measure, start, end, middle - half, middle + half, spread)


def _first_spread_needs(before: Balance, after: Balance) -> int:
    return max(1, 3 - min(before.boots, after.boots))


def _judged(
    measure: Measure, before: Balance, after: Balance, low: float, high: float, spread: Spread
) -> Shift:
    band = noticeable_band(measure, before.value)
    middle = after.value - before.value
    verdict = verdict_of(low, high, middle, band)
    reason = Reason(ReasonCode.BORROWED_SPREAD) if spread.borrowed else None
    if before.at_least or after.at_least:
        verdict, reason = _with_censoring(verdict, before, after)
    more = None
    if verdict is Verdict.UNPROVEN and not (before.at_least or after.at_least):
        more = _more_boots(before, after, middle, band, spread)
        reason = _why_unproven(low, high, more)
    return Shift(measure, before, after, low, high, verdict, more, reason)


def verdict_of(low: float, high: float, middle: float, band: float) -> Verdict:
    """The rule itself: ``low``…``high`` is the 95 % interval of after − before."""
    if high < 0 and middle <= -band:
        return Verdict.SAVED
    if low > 0 and middle >= band:
        return Verdict.LOST
    if low >= -band and high <= band:
        return Verdict.EVEN
    return Verdict.UNPROVEN


def _with_censoring(verdict: Verdict, before: Balance, after: Balance) -> tuple[Verdict, Reason]:
    """A boot that never settled in its recording can only make its own side larger."""
    if verdict is Verdict.SAVED and not after.at_least:
        return verdict, Reason(ReasonCode.AT_LEAST_BEFORE)
    if verdict is Verdict.LOST and not before.at_least:
        return verdict, Reason(ReasonCode.AT_LEAST_AFTER)
    return Verdict.UNPROVEN, Reason(ReasonCode.NOT_SETTLED_IN_RECORDING)


def _why_unproven(low: float, high: float, more: int | None) -> Reason:
    code = ReasonCode.BOTH_SIDES_OF_ZERO if low < 0 < high else ReasonCode.PARTLY_NOTICEABLE
    return Reason.of(code, hopeless=more is None)


def _more_boots(
    before: Balance, after: Balance, middle: float, band: float, spread: Spread
) -> int | None:
    """Fewest further boots after which the same shift and spread would be decided."""
    for boots in range(after.boots + 1, WORTH_BOOTS + 1):
        start = Balance(before.measure, before.units, max(before.boots, boots))
        end = Balance(after.measure, after.units, boots)
        added = (start.boots - before.boots) + (end.boots - after.boots)
        half = student_t(spread.degrees + added) * standard_error(spread, start, end)
        if verdict_of(middle - half, middle + half, middle, band) is not Verdict.UNPROVEN:
            return boots - after.boots
    return None


def with_drift(plain: Shift, fair: Shift, drift: Drift) -> Shift:
    """A shift between rounds on a machine that itself got faster or slower.

    ``fair`` compares the same boots with the earlier ones brought to the later speed.
    """
    facts: dict[str, Fact] = {"ratio": drift.ratio, "control": drift.control}
    if fair.verdict is plain.verdict:
        moved = Reason(ReasonCode.MACHINE_MOVED, facts)
        return replace(plain, drift=drift, adjusted=fair.value, reason=moved)
    return replace(
        plain,
        verdict=Verdict.UNPROVEN,
        more_boots=None,
        drift=drift,
        adjusted=fair.value,
        reason=Reason(ReasonCode.MACHINE_DECIDES, facts),
    )


def as_gain(shift: Shift) -> tuple[float, float] | None:
    """The interval as an amount saved (or lost, when it lost), smaller figure first."""
    if shift.low is None or shift.high is None or math.isnan(shift.low):
        return None
    return (-shift.high, -shift.low) if shift.value <= 0 else (shift.low, shift.high)
