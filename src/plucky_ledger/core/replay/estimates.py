"""What replays of several boots say together: the estimate with its interval."""

import math
from collections.abc import Sequence

import numpy as np

from plucky_ledger.core.replay.other_hardware import QUICKER_PROCESSOR
from plucky_ledger.core.statistics.pseudo_median import pseudo_median
from plucky_ledger.core.statistics.student import student_t
from plucky_ledger.core.values.estimates import Estimate

MODEL_SHARE = 0.35
"""Model error of a startup cost relative to its size; from the study in benchmarks."""
MODEL_SECONDS = 0.35
"""Model error of a startup cost that is always there, in seconds."""
NORMAL_95 = 1.96
BOOTS_TO_COME = 3
"""Least number of coming boots that a plan's interval is made for."""


def estimate(
    values: Sequence[float], share: float = MODEL_SHARE, least: float = MODEL_SECONDS
) -> Estimate:
    """Estimate over boots: the location, with the spread between boots and the model error."""
    middle = pseudo_median(values)
    spread = 0.0
    if len(values) > 1:
        error = float(np.std(values, ddof=1)) / math.sqrt(len(values))
        spread = student_t(len(values) - 1) * error
    half = math.sqrt(spread**2 + (share * middle) ** 2 + least**2)
    return Estimate(middle, middle - half, middle + half)


def or_more(found: Estimate, more: float, whole: float) -> Estimate:
    """The same, with an upper end that reaches further by a share of what is found, and no further
    than half of the whole: cores of twice the speed win no more.
    """
    if not more:
        return found
    high = min(found.high + more * max(found.value, 0.0), whole / QUICKER_PROCESSOR)
    return Estimate(found.value, found.low, max(found.high, high))


def or_less(found: Estimate, seconds: float) -> Estimate:
    """The same, with a lower end that reaches so much further below what is found."""
    return Estimate(found.value, min(found.low, found.value - seconds), found.high)


def less(observed: Sequence[float], saved: Estimate) -> Estimate:
    """Where the balance of a few coming boots would lie: they scatter like the observed ones."""
    whole = pseudo_median(observed)
    spread = float(np.std(observed, ddof=1)) if len(observed) > 1 else 0.0
    chance = NORMAL_95 * spread * math.sqrt(1 / len(observed) + 1 / BOOTS_TO_COME)
    low, high = (
        math.hypot(side, chance) for side in (saved.high - saved.value, saved.value - saved.low)
    )
    return Estimate(whole - saved.value, whole - saved.value - low, whole - saved.value + high)
