"""A job's rows as parts that are the same in every ledger, and parts as rows again.

Numbers of rows are of one ledger alone: in parts, postings and boots go by names that are the same
everywhere. What a part was before is told by the images that bookkeeping steps keep.
"""

import json
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from plucky_ledger.core.job.parts import GONE, Part, canonical
from plucky_ledger.store.columns import existing, kept
from plucky_ledger.store.part_types import (
    ADVICE,
    ASIDE,
    BOOT,
    CARD,
    DECISION,
    POSTING,
    TURNS,
    TYPED,
)
from plucky_ledger.store.tables.base import Base
from plucky_ledger.store.tables.decisions import AsideRow, DecisionRow
from plucky_ledger.store.tables.entries import TypedEntryRow
from plucky_ledger.store.tables.jobs import BootRow, JobRow, PostingRow
from plucky_ledger.store.tables.parts import PartHistoryRow
from plucky_ledger.store.tables.steps import StepImageRow, StepRow

Values = Mapping[str, Any]
"""A row: column → value."""
MOVING = "moving:"
"""What a posting is called while it goes to another row."""
_OF_A_JOB: tuple[type[Base], ...] = (PostingRow, BootRow, DecisionRow, TypedEntryRow, AsideRow)


@dataclass(frozen=True)
class _Told:
    """What one row tells of one part."""

    identity: str
    content: Mapping[str, Any]
    derived: Mapping[str, Any]


def job_named(session: Session, uuid: str) -> int | None:
    """Number of the job that has this name in every ledger; None where there is none."""
    return session.scalar(select(JobRow.number).where(JobRow.uuid == uuid))


def name_of_job(session: Session, number: int) -> str:
    """What a job is called in every ledger. Raises LedgerFault."""
    return existing(session, JobRow, number).uuid


def parts_of(session: Session, job: int) -> dict[str, Part]:
    """The parts of a job by identity, with those that were taken away. Raises LedgerFault."""
    with kept():
        current = [("jobs", _values(existing(session, JobRow, job)))]
        for table in _OF_A_JOB:
            rows = session.scalars(select(table).where(table.job == job))  # type: ignore[attr-defined]
            ordered = sorted(rows, key=lambda row: row.number)  # type: ignore[attr-defined]
            current += [(table.__tablename__, _values(row)) for row in ordered]
        names = {row["number"]: row["uuid"] for kind, row in current if _has_name(kind)}
        now = {told.identity: told for row in current for told in _told(*row, names)}
        before = _known_elsewhere(session, job)
        for kind, values in _images(session, job):
            if _has_name(kind):
                if values["uuid"].startswith(MOVING):
                    continue
                names[values["number"]] = values["uuid"]  # as it was called then
            for told in _told(kind, values, names):
                before.setdefault(told.identity, set()).add(_part(told).digest)
        return {
            identity: _with_earlier(identity, now.get(identity), before.get(identity, set()))
            for identity in [*now, *(gone for gone in before if gone not in now)]
        }


def _known_elsewhere(session: Session, job: int) -> dict[str, set[str]]:
    rows = session.scalars(select(PartHistoryRow).where(PartHistoryRow.job == job))
    return {row.identity: set(json.loads(row.earlier)) for row in rows}


def _with_earlier(identity: str, told: _Told | None, before: set[str]) -> Part:
    part = _part(told) if told is not None else Part(identity=identity, content=GONE)
    return Part(
        identity=identity,
        content=part.content,
        derived=part.derived,
        earlier=frozenset(before - {part.digest}),
    )


def _part(told: _Told) -> Part:
    content, derived = canonical(told.content), canonical(told.derived)
    return Part(identity=told.identity, content=content, derived=derived)


def _values(row: Any) -> Values:  # noqa: ANN401 a row of any table
    return {column.key: getattr(row, column.key) for column in row.__mapper__.column_attrs}


def _images(session: Session, job: int) -> Iterator[tuple[str, Values]]:
    """Rows of a job as they were before and after its steps, and the taking in of it. What was
    undone never was.
    """
    known = {table.__tablename__ for table in _OF_A_JOB}
    rows = session.execute(
        select(StepImageRow.table_name, StepImageRow.before, StepImageRow.after)
        .join(StepRow, StepRow.number == StepImageRow.step)
        .where((StepRow.job == job) | StepRow.job.is_(None), StepRow.undone.is_(False))
        .order_by(StepImageRow.number)
    )
    for table, *both in rows:
        for text in filter(None, both):
            values = json.loads(text)
            is_of_it = table in known and values.get("job") == job
            if is_of_it or (table == "jobs" and values.get("number") == job):
                yield table, values


def told_by(row: Base) -> Iterator[_Told]:
    """What a row of a decision, a typed entry or a program set aside tells."""
    return _told(row.__tablename__, _values(row), {})


def _has_name(table: str) -> bool:
    """Whether others refer to its rows by their numbers."""
    return table == PostingRow.__tablename__


def _told(table: str, values: Values, names: Mapping[int, str]) -> Iterator[_Told]:
    match table:
        case "jobs":
            yield from _of_job(values)
        case "postings":
            yield _of_posting(values, names)
        case "boots":
            yield _of_boot(values, names)
        case "decisions":
            decided = json.loads(values["decided"])
            yield _Told(f"{DECISION}:{values['entry']}", decided, {})
        case "typed_entries":
            entry = json.loads(values["entry"])
            yield _Told(f"{TYPED}:{entry['entry_id']}", entry, {})
        case "asides":
            reason = {"reason": values["reason"]}
            yield _Told(f"{ASIDE}:{values['program']}", reason, {})


def _of_job(values: Values) -> Iterator[_Told]:
    yield _Told(
        CARD,
        {name: values[name] for name in ("title", "owner", "complaint")},
        {
            "label": values["label"],
            "taken_in_at": values["taken_in_at"],
            "facts": json.loads(values["facts"]),
            "pc": json.loads(values["pc"]),
            "inspected": json.loads(values["inspected"] or "null"),
        },
    )
    yield _Told(ADVICE, {"advised": json.loads(values["advised"])}, {})
    yield _Told(TURNS, {"turns": json.loads(values["turns"] or "null")}, {})


def _of_posting(values: Values, names: Mapping[int, str]) -> _Told:
    struck = values["strikes_out"]
    return _Told(
        f"{POSTING}:{values['uuid']}",
        {
            "title": values["title"],
            "posted_at": values["posted_at"],
            "posted_in_boot": values["posted_in_boot"],
            "strikes_out": names.get(struck) if struck is not None else None,
            "changes": json.loads(values["changes"]),
            "opens_visit": bool(values["opens_visit"]),
            "series": values["series"],
        },
        {"expected": json.loads(values["expected"])},
    )


def _of_boot(values: Values, names: Mapping[int, str]) -> _Told:
    posting = values["posting"]
    return _Told(
        f"{BOOT}:{values['boot_id'] or values['uuid']}",
        {
            "started_at": values["started_at"],
            "how": values["how"],
            "marks": json.loads(values["marks"]),
            "set_aside": values["set_aside"],
            "posting": names.get(posting) if posting is not None else None,
        },
        {
            "uuid": values["uuid"],
            "boot_id": values["boot_id"],
            "recording": values["recording"],
            "readings": json.loads(values["readings"]),
            "context": json.loads(values["context"]),
            "cut_short": bool(values["cut_short"]),
            "method": values["method"],
        },
    )
