"""Reading and writing what jobs taught, within a session. It lies with the spine, and every step in
a job takes it away: it is made anew when somebody wants it.
"""

from collections.abc import Sequence

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from plucky_ledger.core.shelf.lessons import Lessons, lessons_of
from plucky_ledger.core.shelf.spine import SPINE_RULE
from plucky_ledger.store.columns import as_json, from_json
from plucky_ledger.store.decisions import decisions
from plucky_ledger.store.jobs import read_job
from plucky_ledger.store.tables.jobs import JobRow
from plucky_ledger.store.tables.spines import SpineRow
from plucky_ledger.store.tables.steps import StepRow


def read_lessons(session: Session) -> dict[int, Lessons]:
    """What is kept, by the job's number."""
    rows = session.execute(select(SpineRow.job, SpineRow.lessons).where(*_KEPT))
    return {number: from_json(text, Lessons) for number, text in rows}


def without_lessons(session: Session) -> Sequence[int]:
    """Numbers of the jobs of which nothing is kept, the newest first."""
    kept = select(SpineRow.job).where(*_KEPT)
    missing = select(JobRow.number).where(JobRow.number.not_in(kept))
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
    """Write what a job taught with its spine, which there has to be."""
    session.get_one(SpineRow, number).lessons = as_json(made_lessons(session, number))


_KEPT = (SpineRow.rule == SPINE_RULE, SpineRow.lessons != "")
