"""What a job taught of programs, kept with it: all jobs are looked through without any of their
boots.
"""

from collections.abc import Mapping
from dataclasses import dataclass

from plucky_ledger.core.book.measured_effects import MeasuredEffect, measured_effects
from plucky_ledger.core.book.plans import PlanHeld, plans_held
from plucky_ledger.core.entries.decisions import Decided
from plucky_ledger.core.job.entry_states import decisions_of
from plucky_ledger.core.job.job import Card, Job


@dataclass(frozen=True, kw_only=True)
class Lessons:
    """What one job taught."""

    card: Card
    decided: Mapping[str, Decided]
    """By entry id, and so are the effects."""
    effects: Mapping[str, MeasuredEffect]
    plans: tuple[PlanHeld, ...]


def lessons_of(job: Job, written: Mapping[str, Decided]) -> Lessons:
    """What a job taught, where this was decided in it."""
    return Lessons(
        card=job.card,
        decided=decisions_of(job, written),
        effects=measured_effects(job),
        plans=plans_held(job),
    )
