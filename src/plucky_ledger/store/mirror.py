"""A job's rows as they are in another ledger, under the same numbers: what a bench goes on with
while its server is gone.
"""

import json

from sqlalchemy import delete, func, insert, select
from sqlalchemy.orm import Session

from plucky_ledger.store.tables.base import Base
from plucky_ledger.store.tables.decisions import AsideRow, DecisionRow
from plucky_ledger.store.tables.entries import InventoryRow, TypedEntryRow
from plucky_ledger.store.tables.jobs import BootRow, JobRow, PostingRow, RecordingRow
from plucky_ledger.store.tables.parts import PartHistoryRow
from plucky_ledger.store.tables.spines import LessonRow, SpineRow
from plucky_ledger.store.tables.steps import StepImageRow, StepRow
from plucky_ledger.store.tables.workshop import ProfileRow, SettingRow

ROWS_OF_A_JOB: tuple[type[Base], ...] = (
    PostingRow,
    BootRow,
    DecisionRow,
    TypedEntryRow,
    AsideRow,
    InventoryRow,
    PartHistoryRow,
)
"""What steps write in a job, beside the job itself, in the order in which they need each other."""
_OF_A_JOB: tuple[type[Base], ...] = (*ROWS_OF_A_JOB, SpineRow, LessonRow)
OF_THE_WORKSHOP: tuple[type[Base], ...] = (ProfileRow, SettingRow)


def copy_job(source: Session, target: Session, number: int) -> None:
    """Make a job in ``target`` what it is in ``source``, and what belongs to the whole workshop."""
    for table in reversed(_OF_A_JOB):
        target.execute(delete(table).where(table.job == number))  # type: ignore[attr-defined]
    target.execute(delete(JobRow).where(JobRow.number == number))
    copy_recordings(source, target, number)
    _copy(source, target, JobRow, JobRow.number == number)
    for table in _OF_A_JOB:
        _copy(source, target, table, table.job == number)  # type: ignore[attr-defined]
    for table in OF_THE_WORKSHOP:
        target.execute(delete(table))
        _copy(source, target, table, None)


def copy_recordings(source: Session, target: Session, number: int) -> None:
    """Those of a job that ``target`` does not have."""
    digests = set(source.scalars(select(BootRow.recording).where(BootRow.job == number))) - {None}
    there = set(target.scalars(select(RecordingRow.digest).where(RecordingRow.digest.in_(digests))))
    _copy(source, target, RecordingRow, RecordingRow.digest.in_(digests - there))


def _copy(source: Session, target: Session, table: type[Base], which: object) -> None:
    wanted = select(table.__table__)
    if which is not None:
        wanted = wanted.where(which)  # type: ignore[arg-type]
    rows = [dict(row) for row in source.execute(wanted).mappings()]
    if rows:
        target.execute(insert(table), rows)


def jobs_with_steps(session: Session) -> tuple[int, ...]:
    """Numbers of the jobs in which steps were taken that stand, and of those that were taken in."""
    wanted = select(StepRow.job).where(StepRow.undone.is_(False), StepRow.job.is_not(None))
    found = {number for number in session.scalars(wanted) if number is not None}
    return tuple(sorted(found | new_jobs(session)))


def new_jobs(session: Session) -> frozenset[int]:
    """Numbers of the jobs that were taken in by a step that stands."""
    taken_in = (
        select(StepImageRow.after)
        .join(StepRow, StepRow.number == StepImageRow.step)
        .where(
            StepRow.undone.is_(False),
            StepImageRow.table_name == JobRow.__tablename__,
            StepImageRow.before.is_(None),
        )
    )
    return frozenset(json.loads(after)["number"] for after in session.scalars(taken_in) if after)


def count_steps(session: Session) -> int:
    """How many steps were taken."""
    return session.scalar(select(func.count()).select_from(StepRow)) or 0
