"""What jobs taught of programs, kept with each: all jobs are looked through without any of their
boots.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from plucky_ledger.core.book.measured_effects import MeasuredEffect, measured_effects
from plucky_ledger.core.book.plans import PlanHeld, plans_held
from plucky_ledger.core.entries.decisions import Decided, Decision
from plucky_ledger.core.entries.identity import UNKNOWN, Identity
from plucky_ledger.core.job.entry_states import decisions_of
from plucky_ledger.core.job.job import Card, Job

QUOTED = 3
"""Jobs that are quoted where several know of a program."""
NEVER_CHANGED = MeasuredEffect(None, put_back=False)


@dataclass(frozen=True)
class Lesson:
    """What one job taught of one program."""

    card: Card
    decided: Decided
    effect: MeasuredEffect

    @property
    def known_by(self) -> Identity:
        """By what the program is known on other jobs."""
        known = self.decided.identity
        return Identity(entry_id=self.decided.entry_id) if known == UNKNOWN else known

    @property
    def changed(self) -> bool:
        """Whether it was decided to start it later or not at all."""
        return self.decided.decision in {Decision.OFF, Decision.LATER}


@dataclass(frozen=True)
class Lessons:
    """What one job taught."""

    programs: tuple[Lesson, ...]
    plans: tuple[PlanHeld, ...]


def lessons_of(job: Job, written: Mapping[str, Decided]) -> Lessons:
    """What a job taught, where this was decided in it."""
    effects = measured_effects(job)
    decided = decisions_of(job, written)
    return Lessons(
        tuple(
            Lesson(job.card, one, effects.get(entry_id, NEVER_CHANGED))
            for entry_id, one in decided.items()
        ),
        plans_held(job),
    )


@dataclass(frozen=True)
class Quoted:
    """What was decided in one job, whose label this is."""

    label: str
    decided: Decided


@dataclass(frozen=True, kw_only=True)
class Elsewhere:
    """What other jobs know of a program."""

    jobs: int = 0
    """In which it was decided about; the rest is of those."""
    changed: int = 0
    """In which it was switched off, or is started later."""
    put_back: int = 0
    """In which that was put back."""
    saved_seconds: tuple[float, ...] = ()
    """By how much sooner each settled in which it was changed alone, and measured."""
    quoted: tuple[Quoted, ...] = ()
    """Some of them, the surest matches first."""


def told_by(lesson: Lesson) -> Elsewhere:
    """What one job knows."""
    saved = lesson.effect.saved_seconds
    return Elsewhere(
        jobs=1,
        changed=int(lesson.changed),
        put_back=int(lesson.effect.put_back),
        saved_seconds=() if saved is None else (saved,),
        quoted=(Quoted(lesson.card.label, lesson.decided),),
    )


def told_together(parts: Iterable[Elsewhere]) -> Elsewhere:
    """What several know, each of other jobs."""
    told = list(parts)
    return Elsewhere(
        jobs=sum(one.jobs for one in told),
        changed=sum(one.changed for one in told),
        put_back=sum(one.put_back for one in told),
        saved_seconds=tuple(saved for one in told for saved in one.saved_seconds),
        quoted=tuple(quoted for one in told for quoted in one.quoted)[:QUOTED],
    )
