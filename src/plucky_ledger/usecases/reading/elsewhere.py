"""What other jobs of the workshop tell about the same program, and what is still to look up."""

import threading
from collections.abc import Mapping
from dataclasses import dataclass

from plucky_ledger.core.book.measured_effects import MeasuredEffect, measured_effects
from plucky_ledger.core.book.plans import PlanHeld, plans_held
from plucky_ledger.core.entries.decisions import Decided, Decision
from plucky_ledger.core.entries.identity import UNKNOWN, Identity, Match
from plucky_ledger.core.job.entry_states import decisions_of
from plucky_ledger.core.job.job import Card, Job
from plucky_ledger.store.decisions import all_decisions, decisions
from plucky_ledger.store.jobs import read_job, read_jobs
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.reading.learned import LearnedFile, others


@dataclass(frozen=True)
class Elsewhere:
    """What became of the same program on one other job."""

    card: Card
    decided: Decided
    matched_by: Match
    effect: MeasuredEffect | None
    """None where it was never changed."""


@dataclass(frozen=True)
class LookUp:
    """One entry left on to be researched."""

    job: int
    card: Card
    decided: Decided


@dataclass(frozen=True)
class _Learned:
    """What one job taught."""

    card: Card
    decided: Mapping[str, Decided]
    effects: Mapping[str, MeasuredEffect]
    plans: tuple[PlanHeld, ...]


class WorkshopMemory:
    """All decisions of a ledger, read once; a job that was written in since is read again.

    May be asked from several threads.
    """

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._learned: dict[int, _Learned] = {}
        self._written: dict[int | None, int] = {}
        self._read = False
        self._others: tuple[int | None, tuple[LearnedFile, ...]] | None = None

    def elsewhere(self, ledger: Ledger, identity: Identity, but_job: int) -> tuple[Elsewhere, ...]:
        """What was decided about a program on other jobs, the surest matches first."""
        answers = []
        for number, learned in self._up_to_date(ledger).items():
            if number == but_job:
                continue
            for entry_id, decided in learned.decided.items():
                program = decided.identity
                if program == UNKNOWN:
                    program = Identity(entry_id=entry_id)
                matched = identity.matches(program)
                if matched is not None:
                    effect = learned.effects.get(entry_id)
                    answers.append(Elsewhere(learned.card, decided, matched, effect))
        order = list(Match)
        return tuple(sorted(answers, key=lambda answer: order.index(answer.matched_by)))

    def look_ups(self, ledger: Ledger) -> tuple[LookUp, ...]:
        """Everything to be looked up, over all jobs, what nobody has found out first."""
        answers = [
            LookUp(number, learned.card, decided)
            for number, learned in self._up_to_date(ledger).items()
            for decided in learned.decided.values()
            if decided.decision is Decision.LOOK_UP or decided.finding
        ]
        return tuple(
            sorted(answers, key=lambda answer: (bool(answer.decided.finding), answer.card.label))
        )

    def plans(self, ledger: Ledger) -> tuple[PlanHeld, ...]:
        """Every plan of the workshop that was posted and measured since."""
        return tuple(
            plan for learned in self._up_to_date(ledger).values() for plan in learned.plans
        )

    def others(self, ledger: Ledger) -> tuple[LearnedFile, ...]:
        """What other workshops told, read once and again where something of the whole workshop was
        written.
        """
        with self._lock:
            written = ledger.written.get(None)
            if self._others is None or self._others[0] != written:
                self._others = written, others(ledger)
            return self._others[1]

    def _up_to_date(self, ledger: Ledger) -> Mapping[int, _Learned]:
        with self._lock:
            written = dict(ledger.written)
            # Somebody else may write in a ledger that is only looked at, or take jobs in.
            others_write = ledger.read_only_because is not None
            if not self._read or others_write or written.get(None) != self._written.get(None):
                self._read_all(ledger)
            else:
                for number in (n for n in written if written[n] != self._written.get(n)):
                    self._read_one(ledger, number)
            self._read, self._written = True, written
            return dict(self._learned)

    def _read_all(self, ledger: Ledger) -> None:
        with ledger.session() as session:
            decided = all_decisions(session)
            jobs = read_jobs(session)
        self._learned = {job.number: _learned(job, decided.get(job.number, {})) for job in jobs}

    def _read_one(self, ledger: Ledger, number: int | None) -> None:
        if number is None:
            return
        with ledger.session() as session:
            job = read_job(session, number)
            self._learned[number] = _learned(job, decisions(session, number))


def _learned(job: Job, written: Mapping[str, Decided]) -> _Learned:
    decided = decisions_of(job, written)
    return _Learned(job.card, decided, measured_effects(job), plans_held(job))
