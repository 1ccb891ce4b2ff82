"""Reading and writing what jobs taught, within a session. It lies beside the spine, and every step
in a job takes it away: it is made anew when somebody wants it.
"""

from collections.abc import Collection, Sequence
from typing import cast

from sqlalchemy import ColumnElement, and_, delete, func, insert, or_, select
from sqlalchemy.orm import Session

from plucky_ledger.core.book.plans import PlanHeld
from plucky_ledger.core.entries.decisions import Decided
from plucky_ledger.core.entries.identity import Identity
from plucky_ledger.core.job.job import Card
from plucky_ledger.core.shelf.lessons import QUOTED, Elsewhere, Lesson, Lessons, Quoted, lessons_of
from plucky_ledger.store.columns import as_json, from_json, kept, plain_text
from plucky_ledger.store.decisions import decisions
from plucky_ledger.store.jobs import read_job
from plucky_ledger.store.tables.jobs import JobRow
from plucky_ledger.store.tables.spines import LessonRow, SpineRow
from plucky_ledger.store.tables.steps import StepRow

_NO_PLANS = "[]"
_KNOWN_BY = (LessonRow.package, LessonRow.executable, LessonRow.known_as)


def elsewhere_of(
    session: Session, identities: Collection[Identity], but_job: int
) -> dict[Identity, Elsewhere]:
    """What is kept by other jobs of programs that may be any of these, by what it is known there.

    Counted in the ledger: of a program that is on thousands of PCs a few lines come out of it.
    """
    named = (
        LessonRow.package.in_({one.package for one in identities} - {""}),
        LessonRow.executable.in_({one.executable for one in identities} - {""}),
        LessonRow.known_as.in_({one.entry_id for one in identities} - {""}),
    )
    wanted = and_(or_(*named), LessonRow.job != but_job)
    saved, quoted = _saved(session, wanted), _quoted(session, wanted)
    rows = session.execute(
        select(
            *_KNOWN_BY,
            func.count(),
            func.count().filter(LessonRow.changed),
            func.count().filter(LessonRow.put_back),
        )
        .where(wanted)
        .group_by(*_KNOWN_BY)
    )
    return {
        (known_by := Identity(*names)): Elsewhere(
            jobs=jobs,
            changed=changed,
            put_back=put_back,
            saved_seconds=tuple(saved.get(known_by, ())),
            quoted=tuple(quoted.get(known_by, ())),  # one may have come in between
        )
        for *names, jobs, changed, put_back in rows
    }


def _saved(session: Session, wanted: ColumnElement[bool]) -> dict[Identity, list[float]]:
    measured = select(*_KNOWN_BY, LessonRow.saved_seconds).where(wanted).order_by(LessonRow.job)
    found: dict[Identity, list[float]] = {}
    for *names, saved in session.execute(measured.where(LessonRow.saved_seconds.is_not(None))):
        with kept():
            found.setdefault(Identity(*names), []).append(float(cast("float", saved)))
    return found


def _quoted(session: Session, wanted: ColumnElement[bool]) -> dict[Identity, list[Quoted]]:
    """The first jobs of each."""
    place = func.row_number().over(
        partition_by=_KNOWN_BY, order_by=(LessonRow.job, LessonRow.entry)
    )
    placed = select(LessonRow.job, LessonRow.entry, place.label("place")).where(wanted).subquery()
    first = (
        select(*_KNOWN_BY, JobRow.label, LessonRow.decided)
        .join(placed, and_(LessonRow.job == placed.c.job, LessonRow.entry == placed.c.entry))
        .join(JobRow, JobRow.number == LessonRow.job)
        .where(placed.c.place <= QUOTED)
        .order_by(LessonRow.job, LessonRow.entry)
    )
    found: dict[Identity, list[Quoted]] = {}
    for *names, label, decided in session.execute(first):
        with kept():
            quoted = Quoted(plain_text(label), from_json(decided, Decided))
        found.setdefault(Identity(*names), []).append(quoted)
    return found


def looked_up(session: Session) -> list[tuple[int, Card, Decided]]:
    """What is kept of programs somebody is to find out about, or has, and in which job."""
    rows = session.execute(
        select(
            LessonRow.job,
            LessonRow.decided,
            JobRow.label,
            JobRow.title,
            JobRow.owner,
            JobRow.complaint,
        )
        .join(JobRow, JobRow.number == LessonRow.job)
        .where(LessonRow.looked_up.is_(True))
        .order_by(LessonRow.job, LessonRow.entry)
    )
    with kept():
        return [
            (job, Card(*map(plain_text, card)), from_json(decided, Decided))
            for job, decided, *card in rows
        ]


def plans_of_jobs(session: Session) -> dict[int, tuple[PlanHeld, ...]]:
    """Plans that are kept, by the job's number; of most jobs there are none."""
    rows = session.execute(
        select(SpineRow.job, SpineRow.plans).where(_KEPT, SpineRow.plans != _NO_PLANS)
    )
    return {number: from_json(text, tuple[PlanHeld, ...]) for number, text in rows}


def without_lessons(session: Session) -> Sequence[int]:
    """Numbers of the jobs of which nothing is kept, the newest first."""
    there = select(SpineRow.job).where(_KEPT)
    missing = select(JobRow.number).where(JobRow.number.not_in(there))
    return session.scalars(missing.order_by(JobRow.number.desc())).all()


def newest_step(session: Session) -> tuple[str, int]:
    """Identity of the newest step and how many are undone: another with every step that is taken,
    undone or done again.
    """
    newest = select(StepRow.uuid).order_by(StepRow.number.desc()).limit(1)
    undone = select(func.count()).select_from(StepRow).where(StepRow.undone)
    return session.scalar(newest) or "", session.scalar(undone) or 0


def made_lessons(session: Session, number: int) -> Lessons:
    """What a job taught, as it is now."""
    return lessons_of(read_job(session, number), decisions(session, number))


def keep_lessons(session: Session, number: int) -> None:
    """Write what a job taught beside its spine, which there has to be."""
    lessons = made_lessons(session, number)
    session.execute(delete(LessonRow).where(LessonRow.job == number))
    session.get_one(SpineRow, number).plans = as_json(lessons.plans)
    if lessons.programs:
        session.execute(insert(LessonRow), [_row(number, one) for one in lessons.programs])


def _row(number: int, lesson: Lesson) -> dict[str, object]:
    known = lesson.known_by
    return {
        "job": number,
        "entry": lesson.decided.entry_id,
        "package": known.package,
        "executable": known.executable,
        "known_as": known.entry_id,
        "looked_up": lesson.decided.looked_up,
        "changed": lesson.changed,
        "put_back": lesson.effect.put_back,
        "saved_seconds": lesson.effect.saved_seconds,
        "decided": as_json(lesson.decided),
    }


_KEPT = SpineRow.plans != ""
