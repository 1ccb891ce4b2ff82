"""How sure a figure is, in words."""

from plucky_ledger.core.book.verdict import Shift, as_gain
from plucky_ledger.core.values.estimates import Estimate
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.wording.figures import between, plain, signed, tenths, with_unit
from plucky_ledger.wording.language import all_of, say

LIKELY_WRONG = 0.5
"""A boot that went wrong with a greater chance is named."""


def interval(shift: Shift) -> str:
    """The 95 % interval of an amount saved or lost, such as "11.9 to 16.8"; empty when none."""
    low, high = as_gain(shift) or (None, None)
    if low is not None and high is not None:
        return between(plain(low, shift.measure), plain(high, shift.measure))
    if low is not None:
        return say("at least {amount}", amount=plain(low, shift.measure))
    return say("at most {amount}", amount=plain(high, shift.measure)) if high is not None else ""


def signed_interval(shift: Shift) -> str:
    """The same of after − before, as the shift beside it: less is a minus; empty when none."""
    low, high = shift.low, shift.high
    if low is not None and high is not None:
        return between(signed(low, shift.measure), signed(high, shift.measure))
    if low is not None:
        return say("at least {amount}", amount=signed(low, shift.measure))
    return say("at most {amount}", amount=signed(high, shift.measure)) if high is not None else ""


def last_place(measure: Measure) -> float:
    """The least that two figures of a measure can differ by as they are written."""
    return float(10.0**-measure.terms.decimals)


def why_elsewhere(shift: Shift) -> str:
    """Why the estimate is not the book's amount, the difference of two balances."""
    reasons = []
    if abs(shift.by_speed) > last_place(shift.measure):
        reasons.append(say("the PC's own speed is taken out"))
    if shift.line and shift.in_turns:
        reasons.append(say("a steady rise or fall over the boots is taken out"))
    if any(chance > LIKELY_WRONG for side in shift.wrong for chance in side):
        reasons.append(say("odd boots count for less"))
    return all_of(reasons) or say("all boots count alike here")


def expected_at(expected: Estimate, measure: Measure) -> str:
    """Where a plan puts the balance, such as "41.1 to 46.2 s": a time is never negative."""
    low = plain(max(0.0, expected.low), measure)
    return between(low, with_unit(expected.high, measure))


def estimated(estimate: Estimate) -> str:
    """The interval of an estimate in seconds, to the tenth."""
    return between(tenths(estimate.low), tenths(estimate.high))
