"""Parts of a job written as rows: what is there already is left as it is."""

import json
from collections.abc import Mapping
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from plucky_ledger.core.job.job import Card
from plucky_ledger.core.job.parts import Part, of_kind
from plucky_ledger.store.columns import existing, kept
from plucky_ledger.store.job_parts import MOVING, parts_of, told_by
from plucky_ledger.store.part_types import (
    ADVICE,
    ASIDE,
    BOOT,
    CARD,
    DECISION,
    POSTING,
    TURNS,
    TYPED,
    check,
)
from plucky_ledger.store.tables.base import new_uuid
from plucky_ledger.store.tables.decisions import AsideRow, DecisionRow
from plucky_ledger.store.tables.entries import TypedEntryRow
from plucky_ledger.store.tables.jobs import BootRow, JobRow, PostingRow
from plucky_ledger.store.tables.parts import PartHistoryRow


def write_parts(session: Session, job: int, parts: Mapping[str, Part]) -> None:
    """Have a job consist of these parts, in as few changes as that takes. Raises LedgerFault."""
    check(parts)
    with kept():
        _write_job(session, job, parts)
        numbers = _write_postings(session, job, parts)
        _write_boots(session, job, parts, numbers)
        _remove_postings(session, job, set(numbers.values()))
        _write_named(session, job, parts)
        _write_histories(session, job, parts)


def add_job_of_parts(session: Session, uuid: str, card: Card, parts: Mapping[str, Part]) -> int:
    """A new job with what does not follow from its parts alone; returns its number."""
    with kept():
        derived = json.loads(parts[CARD].derived)
        inspected = derived["inspected"]
        row = JobRow(
            uuid=str(uuid),
            label=card.label,
            title=card.title,
            owner=card.owner,
            complaint=card.complaint,
            facts=json.dumps(derived["facts"]),
            pc=json.dumps(derived["pc"]),
            inspected=json.dumps(inspected) if inspected is not None else "",
            taken_in_at=str(derived["taken_in_at"]),
        )
    session.add(row)
    session.flush()
    return row.number


def _write_job(session: Session, job: int, parts: Mapping[str, Part]) -> None:
    row = existing(session, JobRow, job)
    card = _content(parts[CARD])  # it may say more: only this is taken from it
    row.title, row.owner, row.complaint = card["title"], card["owner"], card["complaint"]
    for part, column in ((ADVICE, "advised"), (TURNS, "turns")):
        value = _content(parts[part])[column]
        _set(row, column, value)


def _write_postings(session: Session, job: int, parts: Mapping[str, Part]) -> dict[str, int]:
    """Write the postings in their order; returns their numbers by name.

    Their numbers say the order: where one comes in between, those after it move on by a row.
    """
    wanted = {part.identity.partition(":")[2]: part for part in of_kind(parts, POSTING)}
    rows = list(session.scalars(select(PostingRow).where(PostingRow.job == job)))
    rows.sort(key=lambda row: row.number)
    while len(rows) < len(wanted):
        rows.append(PostingRow(job=job, title="", changes="[]", posted_in_boot="", uuid=_moving()))
        session.add(rows[-1])
        session.flush()
    numbers = {name: row.number for name, row in zip(wanted, rows, strict=False)}
    moved = [row for row in rows if numbers.get(row.uuid) != row.number]
    for row in moved:  # two may not have one name, not even for a moment
        row.uuid = _moving()
    session.flush()
    for name, row in zip(wanted, rows, strict=False):
        content = _content(wanted[name])
        row.uuid = name
        row.title, row.posted_at = content["title"], content["posted_at"]
        row.posted_in_boot = content["posted_in_boot"]
        row.strikes_out = numbers.get(content["strikes_out"])
        row.opens_visit, row.series = content["opens_visit"], content["series"]
        _set(row, "changes", content["changes"])
        _set(row, "expected", json.loads(wanted[name].derived)["expected"])
    session.flush()
    return numbers


def _moving() -> str:
    return f"{MOVING}{new_uuid()}"


def _remove_postings(session: Session, job: int, kept_numbers: set[int]) -> None:
    for row in session.scalars(select(PostingRow).where(PostingRow.job == job)).all():
        if row.number not in kept_numbers:
            session.delete(row)
    session.flush()


def _write_boots(
    session: Session, job: int, parts: Mapping[str, Part], numbers: Mapping[str, int]
) -> None:
    rows = {
        f"{BOOT}:{row.boot_id or row.uuid}": row
        for row in session.scalars(select(BootRow).where(BootRow.job == job))
    }
    for part in of_kind(parts, BOOT):
        content, derived = _content(part), json.loads(part.derived)
        row = rows.pop(part.identity, None)
        is_new = row is None
        row = row or BootRow(
            job=job,
            boot_id=derived["boot_id"],
            uuid=derived["uuid"],
            recording=derived["recording"],
        )
        row.posting = numbers[content["posting"]] if content["posting"] is not None else None
        row.started_at, row.how = content["started_at"], content["how"]
        row.set_aside = content["set_aside"]
        _set(row, "marks", content["marks"])
        if is_new or derived["method"] > row.method:
            _set(row, "readings", derived["readings"])
            _set(row, "context", derived["context"])
            row.cut_short, row.method = derived["cut_short"], derived["method"]
        session.add(row)
    for gone in rows.values():
        session.delete(gone)
    session.flush()


def _write_named(session: Session, job: int, parts: Mapping[str, Part]) -> None:
    """Decisions, typed entries and programs set aside."""
    for table, kind in ((DecisionRow, DECISION), (TypedEntryRow, TYPED), (AsideRow, ASIDE)):
        rows = {
            told.identity: row
            for row in session.scalars(select(table).where(table.job == job))
            for told in told_by(row)
        }
        for part in of_kind(parts, kind):
            row = rows.pop(part.identity, None) or table(job=job)
            _write_named_row(row, kind, part)
            session.add(row)
        for row in rows.values():
            session.delete(row)
    session.flush()


def _write_named_row(row: Any, kind: str, part: Part) -> None:  # noqa: ANN401 of any of them
    name, content = part.identity.partition(":")[2], _content(part)
    if kind == ASIDE:
        row.program, row.reason = name, content["reason"]
        return
    if kind == DECISION:
        row.entry = name
    _set(row, "decided" if kind == DECISION else "entry", content)


def _write_histories(session: Session, job: int, parts: Mapping[str, Part]) -> None:
    """What no step of this ledger tells is kept beside them."""
    told = {identity: part.earlier for identity, part in parts_of(session, job).items()}
    rows = {
        row.identity: row
        for row in session.scalars(select(PartHistoryRow).where(PartHistoryRow.job == job))
    }
    for identity, part in parts.items():
        if part.earlier <= told.get(identity, frozenset()) | {part.digest}:
            continue
        row = rows.get(identity) or PartHistoryRow(job=job, identity=identity, earlier="[]")
        row.earlier = json.dumps(sorted({*json.loads(row.earlier), *part.earlier}))
        session.add(row)
    session.flush()


def _content(part: Part) -> dict[str, Any]:
    content = json.loads(part.content)
    if not isinstance(content, dict):
        raise TypeError(part.identity)
    return content


def _set(row: object, column: str, value: object) -> None:
    """A column that holds JSON, written only where it says something else; empty for nothing."""
    if value is None:
        setattr(row, column, "")
    elif json.loads(getattr(row, column) or "null") != value:
        setattr(row, column, json.dumps(value, ensure_ascii=False, separators=(",", ":")))
