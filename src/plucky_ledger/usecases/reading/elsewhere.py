"""What other jobs of the workshop tell about the same program, and what is still to look up."""

import threading
from collections.abc import Collection, Iterator, Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING

from plucky_ledger.core.book.plans import PlanHeld
from plucky_ledger.core.entries.decisions import Decided
from plucky_ledger.core.entries.identity import Identity, Match
from plucky_ledger.core.job.job import Card
from plucky_ledger.core.shelf.lessons import Elsewhere, Lessons, told_by, told_together
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.lessons import (
    elsewhere_of,
    keep_lessons,
    looked_up,
    made_lessons,
    newest_step,
    plans_of_jobs,
    without_lessons,
)
from plucky_ledger.store.spines import without_spine

if TYPE_CHECKING:
    from sqlalchemy.orm import Session

    from plucky_ledger.exchange.learned_file import LearnedFile

KEPT_AT_ONCE = 20
Told = tuple[Identity, Elsewhere]
"""By what a program is known there, and what."""


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
    """What all jobs of a ledger taught: asked for in it, and worked out where it is not kept there.

    May be asked from several threads.
    """

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._made: Mapping[int, Lessons] = {}
        """Of jobs of which nothing is kept."""
        self._written: dict[int | None, int] = {}
        """How often each was written in when they were made."""
        self._newest = ("", 0)
        """The newest step then, in a ledger that is only looked at."""
        self._others: tuple[int | None, tuple[LearnedFile, ...]] | None = None

    def elsewhere(
        self, ledger: Ledger, identities: Collection[Identity], but_job: int
    ) -> dict[Identity, Elsewhere]:
        """What other jobs know of programs; nothing of most."""
        with ledger.session() as session:
            made = self._up_to_date(ledger, session)
            told = list(elsewhere_of(session, identities, but_job).items())
        told += [
            (lesson.known_by, told_by(lesson))
            for number, lessons in made.items()
            if number != but_job
            for lesson in lessons.programs
        ]
        having: dict[tuple[Match, str], list[Told]] = {}
        for one in told:
            for name in _names(one[0]):
                having.setdefault(name, []).append(one)
        return {identity: told_together(_surest_first(identity, having)) for identity in identities}

    def look_ups(self, ledger: Ledger) -> tuple[LookUp, ...]:
        """Everything to be looked up, over all jobs, what nobody has found out first."""
        with ledger.session() as session:
            made = self._up_to_date(ledger, session)
            answers = [LookUp(*told) for told in looked_up(session)]
        answers += [
            LookUp(number, lesson.card, lesson.decided)
            for number, lessons in made.items()
            for lesson in lessons.programs
            if lesson.decided.looked_up
        ]
        return tuple(
            sorted(
                answers,
                key=lambda one: (bool(one.decided.finding), one.card.label, one.decided.entry_id),
            )
        )

    def plans(self, ledger: Ledger) -> tuple[PlanHeld, ...]:
        """Every plan of the workshop that was posted and measured since."""
        with ledger.session() as session:
            made = {n: one.plans for n, one in self._up_to_date(ledger, session).items()}
            of_jobs = plans_of_jobs(session) | made
        return tuple(plan for _, plans in sorted(of_jobs.items()) for plan in plans)

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

    def _up_to_date(self, ledger: Ledger, session: "Session") -> Mapping[int, Lessons]:
        """What jobs taught of which nothing is kept."""
        with self._lock:
            written = dict(ledger.written)
            newest = self._newest
            if ledger.read_only_because is not None:  # somebody else may write in it
                newest = newest_step(session)
            whole = newest != self._newest or written.get(None) != self._written.get(None)
            staying = {
                number: one
                for number, one in self._made.items()
                if not whole and written.get(number) == self._written.get(number)
            }
            self._made = {
                number: staying.get(number) or made_lessons(session, number)
                for number in without_lessons(session)
            }
            self._written, self._newest = written, newest
            return self._made


def _surest_first(
    identity: Identity, having: Mapping[tuple[Match, str], list[Told]]
) -> Iterator[Elsewhere]:
    """What is told of the same program."""
    told = {id(one): one for name in _names(identity) for one in having.get(name, ())}
    matched = [(identity.matches(known_by), one) for known_by, one in told.values()]
    for match in Match:
        yield from (one for by, one in matched if by is match)


def _names(identity: Identity) -> list[tuple[Match, str]]:
    """All that it may be known by; programs that match share one of them."""
    names = (
        (Match.PACKAGE, identity.package),
        (Match.PROGRAM, identity.executable),
        (Match.ENTRY, identity.entry_id),
    )
    return [name for name in names if name[1]]
