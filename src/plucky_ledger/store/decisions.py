"""Reading and writing decisions about startup entries and programs set aside, in a session."""

from collections.abc import Mapping, Sequence

from sqlalchemy import select
from sqlalchemy.orm import Session

from plucky_ledger.core.entries.decisions import Decided
from plucky_ledger.store.columns import as_json, from_json, rows_of
from plucky_ledger.store.tables.decisions import AsideRow, DecisionRow


def all_decisions(session: Session) -> dict[int, dict[str, Decided]]:
    """Everything decided in the workshop, by job number and entry id."""
    by_job: dict[int, dict[str, Decided]] = {}
    for row in rows_of(session, DecisionRow, select(DecisionRow.__table__)):
        by_job.setdefault(row.job, {})[row.entry] = from_json(row.decided, Decided)
    return by_job


def decisions(session: Session, job: int) -> dict[str, Decided]:
    """What was decided in one job, by entry id."""
    rows = session.scalars(select(DecisionRow).where(DecisionRow.job == job))
    return {row.entry: from_json(row.decided, Decided) for row in rows}


def write_decisions(session: Session, job: int, decided: Sequence[Decided]) -> None:
    """Write decisions about entries of a job."""
    ids = [entry.entry_id for entry in decided]
    query = select(DecisionRow).where(DecisionRow.job == job, DecisionRow.entry.in_(ids))
    rows = {row.entry: row for row in session.scalars(query)}
    for entry in decided:
        if entry.entry_id in rows:
            rows[entry.entry_id].decided = as_json(entry)
        else:
            session.add(DecisionRow(job=job, entry=entry.entry_id, decided=as_json(entry)))


def asides(session: Session, job: int) -> dict[str, str]:
    """Programs set aside in a job, with the reason."""
    rows = session.scalars(select(AsideRow).where(AsideRow.job == job))
    return {row.program: row.reason for row in rows}


def write_asides(session: Session, job: int, wanted: Mapping[str, str]) -> None:
    """Replace the programs set aside in a job."""
    for row in session.scalars(select(AsideRow).where(AsideRow.job == job)).all():
        session.delete(row)
    session.add_all(
        AsideRow(job=job, program=program, reason=reason) for program, reason in wanted.items()
    )
