"""What other jobs of the workshop tell about the same program, and what is still to look up."""

import threading
from collections.abc import Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING

from plucky_ledger.core.book.measured_effects import MeasuredEffect
from plucky_ledger.core.book.plans import PlanHeld
from plucky_ledger.core.entries.decisions import Decided, Decision
from plucky_ledger.core.entries.identity import UNKNOWN, Identity, Match
from plucky_ledger.core.job.job import Card
from plucky_ledger.core.shelf.lessons import Lessons
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.lessons import (
    keep_lessons,
    made_lessons,
    newest_step,
    read_lessons,
    without_lessons,
)
from plucky_ledger.store.spines import without_spine

if TYPE_CHECKING:
    from plucky_ledger.exchange.learned_file import LearnedFile

KEPT_AT_ONCE = 20


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


def keep_missing_lessons(ledger: Ledger) -> int:
    """Write what jobs taught where it is not kept; returns of how many. It is nobody's step."""
    assert ledger.may_write(), "lessons are written beside the writer"
    with ledger.session() as session:
        if not without_lessons(session):
            return 0
    with ledger.writing_what_follows() as session:
        without = set(without_spine(session))
        missing = [number for number in without_lessons(session) if number not in without]
        for number in missing[:KEPT_AT_ONCE]:
            keep_lessons(session, number)
    return len(missing[:KEPT_AT_ONCE])


class WorkshopMemory:
    """What all jobs of a ledger taught, read once; of a job that was written in since, again.

    May be asked from several threads.
    """

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._lessons: dict[int, Lessons] = {}
        self._having: dict[tuple[Match, str], set[tuple[int, str]]] = {}
        """Jobs and the entry ids of a program in them, by all that it may be known by."""
        self._written: dict[int | None, int] = {}
        self._read = False
        self._newest = ("", 0)
        """The newest step in a ledger that is only looked at."""
        self._others: tuple[int | None, tuple[LearnedFile, ...]] | None = None

    def elsewhere(self, ledger: Ledger, identity: Identity, but_job: int) -> tuple[Elsewhere, ...]:
        """What was decided about a program on other jobs, the surest matches first."""
        answers = []
        lessons = self._up_to_date(ledger)
        with self._lock:
            names = (self._having.get(name, ()) for name in _names(identity))
            having = set[tuple[int, str]]().union(*names)
        for number, entry_id in sorted(having):
            learned = lessons.get(number)
            decided = learned.decided.get(entry_id) if learned is not None else None
            if number == but_job or learned is None or decided is None:
                continue  # it was decided about before, and is not any more
            matched = identity.matches(_known_by(entry_id, decided))
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

    def others(self, ledger: Ledger) -> "tuple[LearnedFile, ...]":
        """What other workshops told, read once and again where something of the whole workshop was
        written.
        """
        from plucky_ledger.usecases.reading.learned import others  # not at the start

        with self._lock:
            written = ledger.written.get(None)
            if self._others is None or self._others[0] != written:
                self._others = written, others(ledger)
            return self._others[1]

    def _up_to_date(self, ledger: Ledger) -> Mapping[int, Lessons]:
        with self._lock:
            written, before = dict(ledger.written), self._newest
            if ledger.read_only_because is not None:  # somebody else may write in it
                with ledger.session() as session:
                    self._newest = newest_step(session)
            whole = written.get(None) != self._written.get(None) or self._newest != before
            if whole or not self._read:
                self._read_all(ledger)
            else:
                for number in (n for n in written if written[n] != self._written.get(n)):
                    self._read_one(ledger, number)
            self._read, self._written = True, written
            return self._lessons

    def _read_all(self, ledger: Ledger) -> None:
        with ledger.session() as session:
            made = {number: made_lessons(session, number) for number in without_lessons(session)}
            self._lessons, self._having = {}, {}
            self._take(made | read_lessons(session))

    def _read_one(self, ledger: Ledger, number: int | None) -> None:
        if number is None:
            return
        with ledger.session() as session:
            self._take({number: made_lessons(session, number)})

    def _take(self, lessons: Mapping[int, Lessons]) -> None:
        """These as well; whoever reads in those before goes on doing so."""
        for number, learned in lessons.items():
            for entry_id, decided in learned.decided.items():
                for name in _names(_known_by(entry_id, decided)):
                    self._having.setdefault(name, set()).add((number, entry_id))
        self._lessons = {**self._lessons, **lessons}


def _known_by(entry_id: str, decided: Decided) -> Identity:
    return Identity(entry_id=entry_id) if decided.identity == UNKNOWN else decided.identity


def _names(identity: Identity) -> list[tuple[Match, str]]:
    """All that it may be known by; programs that match share one of them."""
    names = (
        (Match.PACKAGE, identity.package),
        (Match.PROGRAM, identity.executable),
        (Match.ENTRY, identity.entry_id),
    )
    return [name for name in names if name[1]]
