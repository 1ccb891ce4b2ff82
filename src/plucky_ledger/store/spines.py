"""Reading and writing spines, within a session."""

import sys
from collections.abc import Sequence

from sqlalchemy import delete, select, text
from sqlalchemy.orm import Session

from plucky_ledger.core.entries.decisions import Decision
from plucky_ledger.core.shelf.spine import SPINE_RULE, Spine, spine_of
from plucky_ledger.store.columns import as_json, from_json
from plucky_ledger.store.decisions import decisions
from plucky_ledger.store.jobs import read_job
from plucky_ledger.store.tables.jobs import JobRow
from plucky_ledger.store.tables.spines import LessonRow, SpineRow


def read_spines(session: Session) -> tuple[Spine, ...]:
    """The spine of every job that has one, the newest job first."""
    rows = session.execute(
        select(SpineRow.spine)
        .join(JobRow, JobRow.number == SpineRow.job)
        .where(SpineRow.rule == SPINE_RULE)
        .order_by(SpineRow.job.desc())
    )
    return tuple(from_json(text, Spine) for (text,) in rows)


def read_spine(session: Session, number: int) -> Spine | None:
    """The spine of one job; None where none is kept by today's rule."""
    row = session.get(SpineRow, number)
    return from_json(row.spine, Spine) if row is not None and row.rule == SPINE_RULE else None


def without_spine(session: Session, nor_newer: bool = False) -> Sequence[int]:
    """Numbers of the jobs that have none of today's rule, the newest first; with ``nor_newer``
    those that have none of a later version's either, which is to stay.
    """
    # In plain SQL: every command asks, and composing a statement takes longer than its answer.
    missing = text(
        "SELECT number FROM jobs WHERE number NOT IN "
        "(SELECT job FROM spines WHERE rule BETWEEN :rule AND :newest) ORDER BY number DESC"
    )
    newest = sys.maxsize if nor_newer else SPINE_RULE
    return session.execute(missing, {"rule": SPINE_RULE, "newest": newest}).scalars().all()


def made_spine(session: Session, number: int, before: Spine | None = None) -> Spine:
    """The spine of a job as it is now."""
    look_ups = sum(
        one.decision is Decision.LOOK_UP and not one.finding
        for one in decisions(session, number).values()
    )
    return spine_of(read_job(session, number), look_ups, before)


def keep_spine(session: Session, number: int) -> None:
    """Write the spine of a job anew; none where it is no longer there. What the job taught is to
    be made anew as well.
    """
    session.flush()
    session.execute(delete(LessonRow).where(LessonRow.job == number))
    row = session.get(SpineRow, number)
    if session.get(JobRow, number) is None:
        if row is not None:
            session.delete(row)
        return
    made = as_json(made_spine(session, number, read_spine(session, number)))
    if row is None:
        session.add(SpineRow(job=number, spine=made, rule=SPINE_RULE))
    else:
        row.spine, row.rule, row.plans = made, SPINE_RULE, ""
