"""Calibration of plans: predicted against measured savings, over the workshop's jobs.

A posting keeps its prediction. The error of each, in units of the plan's own uncertainty, has a
root mean square of 1 where the intervals are right; its estimate widens or narrows later plans. A
few plans say little: the estimate is shrunk towards 1 by ``PRIOR_PLANS`` plans.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

from plucky_ledger.core.book.book import keep_book
from plucky_ledger.core.job.job import Job
from plucky_ledger.core.replay.startup_cost import PlanEstimate
from plucky_ledger.core.values.estimates import Estimate
from plucky_ledger.core.values.measures import Measure

PRIOR_PLANS = 8
NARROWEST, WIDEST = 0.5, 3.0
NORMAL_95 = 1.96


@dataclass(frozen=True)
class PlanHeld:
    """One plan and what was measured afterwards, in seconds."""

    expected: Estimate
    measured: float

    @property
    def held(self) -> bool:
        """Whether the measured figure was within the interval."""
        return self.expected.low <= self.measured <= self.expected.high


def plans_held(job: Job, measure: Measure = Measure.SETTLED) -> tuple[PlanHeld, ...]:
    """The plans of a job that were posted and measured since; one that said nothing is none."""
    return tuple(
        PlanHeld(line.posting.expected[measure], line.balance.value)
        for line in keep_book(job, measure).lines
        if line.posting is not None and line.balance is not None
        if measure in line.posting.expected and not line.balance.at_least
        if not line.posting.expected[measure].too_wide
    )


def width_factor(held: Sequence[PlanHeld]) -> float:
    """Factor for the width of later plans' intervals."""
    squares = [
        ((plan.measured - plan.expected.value) / sigma) ** 2
        for plan in held
        if (sigma := (plan.expected.high - plan.expected.low) / 2 / NORMAL_95) > 0
    ]
    mean = (PRIOR_PLANS + sum(squares)) / (PRIOR_PLANS + len(squares))
    return min(WIDEST, max(NARROWEST, math.sqrt(mean)))


def widened(plan: PlanEstimate, factor: float) -> PlanEstimate:
    """A plan with its intervals made wider, or narrower."""
    if factor == 1.0:
        return plan
    return replace(
        plan,
        settled=plan.settled and _wider(plan.settled, factor),
        system_up=_wider(plan.system_up, factor),
        saved=plan.saved and _wider(plan.saved, factor),
        up_saved=_wider(plan.up_saved, factor),
    )


def _wider(figure: Estimate, factor: float) -> Estimate:
    return Estimate(
        figure.value,
        figure.value - factor * (figure.value - figure.low),
        figure.value + factor * (figure.high - figure.value),
    )
