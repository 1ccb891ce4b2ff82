"""How sure a figure is, in words."""

from plucky_ledger.core.book.verdict import Shift, as_gain
from plucky_ledger.core.cost.estimate import Estimate
from plucky_ledger.wording.figures import between, plain, tenths


def interval(shift: Shift) -> str:
    """The 95 % interval of an amount saved or lost, such as "11.9 to 16.8"; empty when none."""
    gain = as_gain(shift)
    if gain is None:
        return ""
    return between(plain(gain[0], shift.measure), plain(gain[1], shift.measure))


def estimated(estimate: Estimate) -> str:
    """The interval of an estimate in seconds, to the tenth."""
    return between(tenths(estimate.low), tenths(estimate.high))
