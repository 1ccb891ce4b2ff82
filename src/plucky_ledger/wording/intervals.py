"""How sure a figure is, in words."""

from plucky_ledger.core.book.verdict import Shift, as_gain
from plucky_ledger.core.values.estimates import Estimate
from plucky_ledger.wording.figures import between, plain, signed, tenths
from plucky_ledger.wording.language import say


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


def estimated(estimate: Estimate) -> str:
    """The interval of an estimate in seconds, to the tenth."""
    return between(tenths(estimate.low), tenths(estimate.high))
