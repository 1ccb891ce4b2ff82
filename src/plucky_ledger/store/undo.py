"""Bookkeeping steps: each writes in one transaction and can be undone and done again.

A step keeps every row it touched as it was before and after; undoing puts the rows back as they
were before. Recordings themselves are never among them. Undoing goes job by job: what was done on
another PC in between stays.
"""

import json
import logging
from collections.abc import Iterable, Iterator, Sequence
from contextlib import contextmanager
from datetime import UTC, datetime

from sqlalchemy import ColumnElement, delete, event, func, inspect, or_, select, update
from sqlalchemy.orm import InstanceState, Session, UOWTransaction

from plucky_ledger.core.values.reasons import Fact
from plucky_ledger.core.values.steps import Step, StepCode
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.store.columns import as_json, from_json
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.tables.base import Base
from plucky_ledger.store.tables.jobs import JobRow
from plucky_ledger.store.tables.steps import UNDOABLE, StepImageRow, StepRow

log = logging.getLogger(__name__)
_Images = tuple[str, str | None, str | None]
"""Table of a row, and the row before and after."""
_Written = _Images | Base
"""In the order in which it was written: undoing goes the other way. A row where it is new."""
KEPT_STEPS = 500
"""Older steps are let go of, so that a ledger does not grow for ever."""


@contextmanager
def step(ledger: Ledger, code: StepCode, job: int | None, **facts: Fact) -> Iterator[Session]:
    """Take one bookkeeping step; what was undone before can then no longer be done again.

    ``job`` is the number of the job it belongs to. Whatever is raised within leaves the ledger as
    it was.
    """
    assert ledger.may_write(), f"{code.value} is written beside the writer"
    with ledger.writing(job) as session:
        let_go_of_undone(session, job, keep=ledger.kept.keeps_all_steps)
        row = StepRow(
            code=code.value,
            facts=as_json(facts),
            job=job,
            undone=False,
            author=ledger.author,
            bench=ledger.bench,
            taken_at=datetime.now(UTC).isoformat(timespec="seconds"),
        )
        session.add(row)
        session.flush()
        if not ledger.kept.keeps_all_steps:
            session.execute(delete(StepRow).where(StepRow.number <= row.number - KEPT_STEPS))
        changes: list[_Written] = []

        @event.listens_for(session, "before_flush")
        def _before(session: Session, _context: UOWTransaction, _objects: object) -> None:
            _note_gone_and_changed(session, changes)

        @event.listens_for(session, "after_flush")
        def _after(session: Session, _context: UOWTransaction) -> None:
            changes.extend(obj for obj in session.new if _undoable(obj))

        yield session
        session.flush()
        event.remove(session, "before_flush", _before)
        event.remove(session, "after_flush", _after)
        images = [
            StepImageRow(step=row.number, table_name=table, before=before, after=after)
            for table, before, after in map(_as_images, changes)
        ]
        session.add_all(images)
        keep_spines_of(session, images)
    parts = ", ".join(f"{name}={value!r}" for name, value in facts.items())
    log.info("%s, job %s: %s; %d rows", code.value, job, parts, len(changes))


def _ours(ledger: Ledger) -> tuple[ColumnElement[bool], ...]:
    """Where benches share a ledger, each undoes its own steps."""
    if not ledger.kept.keeps_all_steps:
        return ()
    return (StepRow.author == ledger.author, StepRow.bench == ledger.bench)


def _refuse_others_upon(session: Session, row: StepRow, images: Sequence[StepImageRow]) -> None:
    """Raises Refused where another bench has changed since what this step wrote."""
    touched = {(image.table_name, _number_in(image)) for image in images}
    others = session.execute(
        select(StepImageRow, StepRow.author, StepRow.bench)
        .join(StepRow, StepImageRow.step == StepRow.number)
        .where(
            StepRow.number > row.number,
            StepRow.undone.is_(False),
            or_(StepRow.author != row.author, StepRow.bench != row.bench),
            StepImageRow.table_name.in_({table for table, _ in touched}),
        )
    )
    for image, author, bench in others:
        if (image.table_name, _number_in(image)) in touched:
            raise Refused(TroubleCode.STEP_OF_ANOTHER, who=f"{author}@{bench}")


def keep_spines_of(session: Session, images: Iterable[StepImageRow]) -> None:
    """Write the spines anew of the jobs that rows belong to."""
    from plucky_ledger.store.spines import keep_spine  # only whoever writes needs it

    jobs = set()
    for image in images:
        told = json.loads(image.after or image.before or "{}")
        jobs.add(told.get("number" if image.table_name == JobRow.__tablename__ else "job"))
    for job in sorted(jobs - {None}):
        keep_spine(session, job)


def _number_in(image: StepImageRow) -> int:
    return int(json.loads(image.after or image.before or "{}").get("number", 0))


def _of(job: int | None) -> ColumnElement[bool]:
    """Steps of a job, or of the whole workshop."""
    return StepRow.job.is_(None) if job is None else StepRow.job == job


def let_go_of_undone(session: Session, job: int | None, *, keep: bool) -> None:
    """What was undone can no longer be done again."""
    undone = (StepRow.undone, _of(job))
    if keep:
        session.execute(update(StepRow).where(*undone).values(over=True))
    else:
        session.execute(delete(StepRow).where(*undone))


def _as_images(written: _Written) -> _Images:
    """What is new is kept as it became in the end."""
    if isinstance(written, tuple):
        return written
    return written.__tablename__, None, _image(written)


def _note_gone_and_changed(session: Session, changes: list[_Written]) -> None:
    changes.extend(
        (obj.__tablename__, _image(obj, before=True), _image(obj))
        for obj in session.dirty
        if _undoable(obj) and session.is_modified(obj)
    )
    changes.extend(
        (obj.__tablename__, _image(obj, before=True), None)
        for obj in session.deleted
        if _undoable(obj)
    )


def _undoable(obj: object) -> bool:
    return getattr(obj, "__tablename__", None) in UNDOABLE


def _image(obj: Base, before: bool = False) -> str:
    """The row as JSON, as it is or as it was when it was read."""
    state: InstanceState[Base] = inspect(obj)
    values = {}
    for attribute in state.mapper.column_attrs:
        history = state.attrs[attribute.key].history
        old = history.deleted[0] if before and history.deleted else None
        changed = before and bool(history.deleted)
        values[attribute.key] = old if changed else getattr(obj, attribute.key)
    return json.dumps(values)


def undo(ledger: Ledger, job: int | None) -> Step | None:
    """Undo the last step of a job that stands; returns it, or None when there is none.

    With None, the last step of the whole workshop, such as taking a PC in.

    Raises:
        Refused: other steps stand upon it; nothing was changed.
    """
    return _move(ledger, job, back=True)


def redo(ledger: Ledger, job: int | None) -> Step | None:
    """Do the step again that was undone last; returns it, or None when there is none."""
    return _move(ledger, job, back=False)


def next_to_undo(ledger: Ledger, job: int | None) -> StepCode | None:
    """What the last step of a job did that stands; None where there is none."""
    with ledger.session() as session:
        code = session.scalar(
            select(StepRow.code)
            .where(StepRow.undone.is_(False), _of(job), *_ours(ledger))
            .order_by(StepRow.number.desc())
            .limit(1)
        )
    return StepCode(code) if code else None


def _move(ledger: Ledger, job: int | None, back: bool) -> Step | None:
    assert ledger.may_write(), "undone beside the writer"
    chosen = func.max(StepRow.number) if back else func.min(StepRow.number)
    with ledger.writing(job) as session:
        number = session.scalar(
            select(chosen).where(
                StepRow.undone.is_(not back), StepRow.over.is_(False), _of(job), *_ours(ledger)
            )
        )
        row = session.get(StepRow, number) if number is not None else None
        if row is None:
            return None
        images = session.scalars(
            select(StepImageRow)
            .where(StepImageRow.step == row.number)
            .order_by(StepImageRow.number.desc() if back else StepImageRow.number)
        ).all()
        if back:
            _refuse_others_upon(session, row, images)
        for image in images:
            _put(session, image, back)
            session.flush()
        row.undone = back
        keep_spines_of(session, images)
        facts = from_json(row.facts, dict[str, Fact])
        moved = Step(row.number, StepCode(row.code), facts, row.job)
    log.info("%s %s, job %s", "undone:" if back else "done again:", moved.code.value, job)
    return moved


def _put(session: Session, image: StepImageRow, back: bool) -> None:
    kind = UNDOABLE[image.table_name]
    wanted, present = (image.before, image.after) if back else (image.after, image.before)
    if wanted is not None:
        session.merge(kind(**json.loads(wanted)))
    elif present is not None:
        number = json.loads(present)["number"]
        if kind is JobRow:
            _nothing_stands_upon(session, number)
        row = session.get(kind, number)
        if row is not None:
            session.delete(row)


def _nothing_stands_upon(session: Session, job: int) -> None:
    """Taking in is only undone while nothing else was done on the job."""
    standing = select(StepRow.number).where(StepRow.job == job, StepRow.undone.is_(False))
    if session.scalar(standing.limit(1)) is not None:
        row = session.get(JobRow, job)
        raise Refused(TroubleCode.STEP_BUILT_UPON, label=row.label if row else str(job))
