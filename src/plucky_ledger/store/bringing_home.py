"""Steps that were taken in a copy of a job, taken again in the ledger it is a copy of: the same,
in their order, each to be undone by itself.
"""

import json
from collections.abc import Iterable, Sequence
from typing import Any

from sqlalchemy import inspect, select
from sqlalchemy.orm import Session

from plucky_ledger.core.values.steps import StepCode
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.mirror import OF_THE_WORKSHOP, ROWS_OF_A_JOB, copy_recordings
from plucky_ledger.store.tables.base import Base
from plucky_ledger.store.tables.jobs import BootRow, JobRow, PostingRow, RecordingRow
from plucky_ledger.store.tables.steps import UNDOABLE, StepImageRow, StepRow
from plucky_ledger.store.undo import keep_spines_of, let_go_of_undone

_Key = tuple[str, int]
"""Table and number of a row."""
_Rows = dict[_Key, dict[str, Any]]
_REFERS_TO_A_POSTING = {PostingRow.__tablename__: "strikes_out", BootRow.__tablename__: "posting"}
"""Columns that hold the number of a posting."""


def standing_steps(copy: Session, job: int | None) -> Sequence[StepRow]:
    """The steps of a job that stand, or of what belongs to the whole workshop, in their order. A
    job that was taken in is new: it has no steps that could be taken elsewhere.
    """
    of_it = StepRow.job.is_(None) if job is None else StepRow.job == job
    wanted = select(StepRow).where(
        of_it, StepRow.undone.is_(False), StepRow.code != StepCode.TAKE_IN.value
    )
    return copy.scalars(wanted.order_by(StepRow.number)).all()


def bring_steps(ledger: Ledger, copy: Session, job: int | None) -> int | None:
    """Take the steps of a copied job, or of the whole workshop, in the ledger it was copied from;
    returns how many there were.

    All of them in one transaction, so that a bench that is cut off has brought all or none.

    Returns None, with nothing written, where somebody else has written in the job since it was
    copied, or it is no copy.

    Raises:
        LedgerFault: another bench is writing in it, or it cannot be reached.
    """
    steps = standing_steps(copy, job)
    if not steps:
        return 0
    images = {step.number: _images(copy, step) for step in steps}
    with ledger.writing(job) as session:
        names = {step.uuid for step in steps}
        there = set(session.scalars(select(StepRow.uuid).where(StepRow.uuid.in_(names))))
        if there == names:
            return 0
        before = _undone(_rows(copy, job), [one for step in steps for one in images[step.number]])
        if there or before != _rows(session, job):
            return None
        let_go_of_undone(session, job, keep=ledger.kept.keeps_all_steps)
        if job is not None:
            _bring_recordings(copy, session, job)
        numbers: dict[_Key, int] = {}
        for step in steps:
            _take(session, step, images[step.number], numbers)
    return len(steps)


def _bring_recordings(copy: Session, session: Session, job: int) -> None:
    """Also what was written after the end of one that is here already."""
    copy_recordings(copy, session, job)
    of_it = select(BootRow.recording).where(BootRow.job == job)
    longer = select(RecordingRow).where(
        RecordingRow.digest.in_(of_it), RecordingRow.more.is_not(None)
    )
    for row in copy.scalars(longer):
        here = session.get_one(RecordingRow, row.digest)
        if len(row.more or b"") > len(here.more or b""):
            here.more = row.more


def _images(copy: Session, step: StepRow) -> Sequence[StepImageRow]:
    of_it = select(StepImageRow).where(StepImageRow.step == step.number)
    return copy.scalars(of_it.order_by(StepImageRow.number)).all()


def _rows(session: Session, job: int | None) -> _Rows:
    """Every row that steps of a job, or of the whole workshop, can write."""
    found: _Rows = {}
    tables: tuple[type[Base], ...] = OF_THE_WORKSHOP if job is None else (JobRow, *ROWS_OF_A_JOB)
    for table in tables:
        wanted = select(table.__table__)
        if job is not None:
            columns = table.__table__.c
            wanted = wanted.where((columns.number if table is JobRow else columns.job) == job)
        for row in session.execute(wanted).mappings():
            found[table.__tablename__, row["number"]] = dict(row)
    return found


def _undone(rows: _Rows, images: Sequence[StepImageRow]) -> _Rows:
    """Rows as they were before some steps."""
    for image in reversed(images):
        told = image.before or image.after
        key = image.table_name, json.loads(told or "{}")["number"]
        rows.pop(key, None)
        if image.before is not None:
            rows[key] = json.loads(image.before)
    return rows


def _take(
    session: Session, step: StepRow, images: Iterable[StepImageRow], numbers: dict[_Key, int]
) -> None:
    """Take one step. ``numbers`` says which rows have another number here; new ones are added."""
    columns = (one.key for one in inspect(StepRow).column_attrs if one.key != "number")
    row = StepRow(**{column: getattr(step, column) for column in columns})
    session.add(row)
    session.flush()
    written = []
    for image in images:
        before = _as_here(image.table_name, image.before, numbers)
        after = _as_here(image.table_name, image.after, numbers)
        _put(session, image.table_name, before, after, numbers)
        session.flush()
        written.append(
            StepImageRow(
                step=row.number,
                table_name=image.table_name,
                before=json.dumps(before) if before is not None else None,
                after=json.dumps(after) if after is not None else None,
            )
        )
    session.add_all(written)
    keep_spines_of(session, written)


def _as_here(table: str, told: str | None, numbers: dict[_Key, int]) -> dict[str, Any] | None:
    """A row of the copy with the numbers that it and what it refers to have here."""
    if told is None:
        return None
    values: dict[str, Any] = json.loads(told)
    values["number"] = numbers.get((table, values["number"]), values["number"])
    if column := _REFERS_TO_A_POSTING.get(table):
        key = PostingRow.__tablename__, values[column]
        values[column] = numbers.get(key, values[column])
    return values


def _put(
    session: Session,
    table: str,
    before: dict[str, Any] | None,
    after: dict[str, Any] | None,
    numbers: dict[_Key, int],
) -> None:
    kind: type[Base] = UNDOABLE[table]
    if after is None:
        assert before is not None, "an image tells of a row"
        session.delete(session.get_one(kind, before["number"]))
    elif before is not None:
        session.merge(kind(**after))
    else:
        row = kind(**{column: value for column, value in after.items() if column != "number"})
        session.add(row)
        session.flush()
        here = row.number  # type: ignore[attr-defined]
        numbers[table, after["number"]] = after["number"] = here
