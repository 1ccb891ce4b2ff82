"""What is not known yet of an entry's cost, and how many more boots would tell."""

import math
from statistics import stdev

from plucky_ledger.core.replay.grades import GradeThresholds
from plucky_ledger.core.replay.startup_cost import StartupCost
from plucky_ledger.core.statistics.sample_size import WORTH_BOOTS
from plucky_ledger.core.statistics.student import student_t
from plucky_ledger.core.values.estimates import Estimate
from plucky_ledger.core.values.reasons import Reason, ReasonCode


def not_known_yet(
    cost: StartupCost, settled_seconds: float, thresholds: GradeThresholds
) -> Reason | None:
    """Why nothing can be said of an entry's seconds although it was replayed; None where it can.

    They may be nothing and may be much, or they are more than there is.
    """
    found = cost.settled
    if found is None or settled_seconds <= 0:
        return None
    much = thresholds.heavy * settled_seconds
    possible = found.value < settled_seconds and found.high - found.low < settled_seconds
    if possible and not (found.low <= 0 and found.high >= much):
        return None
    return Reason.of(ReasonCode.NOT_KNOWN_YET, more=_more_boots(cost.per_boot, found, much) or 0)


def _more_boots(delays: tuple[float, ...], found: Estimate, much: float) -> int | None:
    """Fewest further boots, scattering like those there are, after which it is known to be
    something, or not to be much; None where no number worth a technician's time would do.
    """
    boots = len(delays)
    if boots < 2:
        return 1
    scatter = stdev(delays)
    had = student_t(boots - 1) * scatter / math.sqrt(boots)
    model = max(0.0, ((found.high - found.low) / 2) ** 2 - had**2)
    wanted = max(abs(found.value), much - found.value) ** 2 - model
    for more in range(1, WORTH_BOOTS + 1):
        then = boots + more
        if (student_t(then - 1) * scatter) ** 2 / then < wanted:
            return more
    return None
