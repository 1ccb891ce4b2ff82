"""Bookkeeping steps: each writes in one transaction and can be undone and done again.

A step keeps every row it touched as it was before and after; undoing puts the rows back as they
were before. Recordings themselves are never among them.
"""

import json
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass

from sqlalchemy import delete, event, func, inspect, select
from sqlalchemy.orm import InstanceState, Session, UOWTransaction

from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.tables import UNDOABLE, Base, StepImageRow, StepRow

KEPT_STEPS = 500
"""Older steps are let go of, so that a ledger does not grow for ever."""


@dataclass(frozen=True)
class Step:
    """A step that was taken, undone or done again."""

    number: int
    label: str
    job: int | None


@contextmanager
def step(ledger: Ledger, label: str, job: int | None) -> Iterator[Session]:
    """Take one bookkeeping step; what was undone before can then no longer be done again."""
    with ledger.session() as session:
        session.execute(delete(StepRow).where(StepRow.undone))
        row = StepRow(label=label, job=job, undone=False)
        session.add(row)
        session.flush()
        session.execute(delete(StepRow).where(StepRow.number <= row.number - KEPT_STEPS))
        changes: list[tuple[str, str | None, str | None]] = []

        @event.listens_for(session, "before_flush")
        def _before(session: Session, _context: UOWTransaction, _objects: object) -> None:
            _note_gone_and_changed(session, changes)

        created: list[Base] = []

        @event.listens_for(session, "after_flush")
        def _after(session: Session, _context: UOWTransaction) -> None:
            created.extend(obj for obj in session.new if _undoable(obj))

        yield session
        session.flush()
        event.remove(session, "before_flush", _before)
        event.remove(session, "after_flush", _after)
        changes.extend((obj.__tablename__, None, _image(obj)) for obj in created)
        session.add_all(
            StepImageRow(step=row.number, table_name=table, before=before, after=after)
            for table, before, after in changes
        )


def _note_gone_and_changed(
    session: Session, changes: list[tuple[str, str | None, str | None]]
) -> None:
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


def undo(ledger: Ledger) -> Step | None:
    """Undo the last step that stands; returns it, or None when there is none."""
    return _move(ledger, back=True)


def redo(ledger: Ledger) -> Step | None:
    """Do the step again that was undone last; returns it, or None when there is none."""
    return _move(ledger, back=False)


def _move(ledger: Ledger, back: bool) -> Step | None:
    chosen = func.max(StepRow.number) if back else func.min(StepRow.number)
    with ledger.session() as session:
        number = session.scalar(select(chosen).where(StepRow.undone.is_(not back)))
        row = session.get(StepRow, number) if number is not None else None
        if row is None:
            return None
        images = session.scalars(
            select(StepImageRow).where(StepImageRow.step == row.number).order_by(
                StepImageRow.number.desc() if back else StepImageRow.number
            )
        ).all()  # fmt: skip
        for image in images:
            _put(session, image, back)
            session.flush()
        row.undone = back
        return Step(row.number, row.label, row.job)


def _put(session: Session, image: StepImageRow, back: bool) -> None:
    kind = UNDOABLE[image.table_name]
    wanted, present = (image.before, image.after) if back else (image.after, image.before)
    if wanted is not None:
        session.merge(kind(**json.loads(wanted)))
    elif present is not None:
        row = session.get(kind, json.loads(present)["number"])
        if row is not None:
            session.delete(row)
