"""Reading and writing what is decided about startup entries, and the workshop's profiles."""

from collections.abc import Sequence
from typing import TypeVar

from sqlalchemy import select
from sqlalchemy.orm import Session

from plucky_ledger.core.book.job import Posting
from plucky_ledger.core.boots.boot import Boot, StartupEntry
from plucky_ledger.core.entries.decisions import Decided
from plucky_ledger.core.pc.stock import StockProfile
from plucky_ledger.store.jobs import as_json, existing, from_json, write_boot, write_posting
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.tables import (
    AsideRow,
    DecisionRow,
    PostingRow,
    ProfileRow,
    SettingRow,
    TypedEntryRow,
)
from plucky_ledger.store.undo import step

T = TypeVar("T")


def decisions(ledger: Ledger) -> dict[int, dict[str, Decided]]:
    """Everything decided, by job number and entry id."""
    found: dict[int, dict[str, Decided]] = {}
    with ledger.session() as session:
        for row in session.scalars(select(DecisionRow)).all():
            found.setdefault(row.job, {})[row.entry] = from_json(row.decided, Decided)
    return found


def write_decisions(
    ledger: Ledger, label: str, job: int, decided: Sequence[Decided], pencilled: Posting | None
) -> None:
    """Write decisions about entries of a job and the pencilled posting that follows from them.

    A pencilled posting without changes is removed; None leaves the postings alone.
    """
    with step(ledger, label, job) as session:
        for one in decided:
            row = _decision_row(session, job, one.entry_id)
            row.decided = as_json(one)
        if pencilled is None:
            return
        if pencilled.changes:
            write_posting(session, job, pencilled)
        elif pencilled.number:
            session.delete(existing(session, PostingRow, pencilled.number))


def _decision_row(session: Session, job: int, entry: str) -> DecisionRow:
    row = session.scalar(
        select(DecisionRow).where(DecisionRow.job == job, DecisionRow.entry == entry)
    )
    if row is None:
        row = DecisionRow(job=job, entry=entry, decided="{}")
        session.add(row)
    return row


def typed_entries(ledger: Ledger, job: int) -> tuple[StartupEntry, ...]:
    """Entries of a job that were typed in."""
    with ledger.session() as session:
        rows = session.scalars(select(TypedEntryRow).where(TypedEntryRow.job == job)).all()
        return tuple(from_json(row.entry, StartupEntry) for row in rows)


def write_typed_entries(ledger: Ledger, job: int, entries: Sequence[StartupEntry]) -> None:
    """Replace the typed entries of a job."""
    with step(ledger, "type in startup entries", job) as session:
        for row in session.scalars(select(TypedEntryRow).where(TypedEntryRow.job == job)).all():
            session.delete(row)
        session.add_all(TypedEntryRow(job=job, entry=as_json(entry)) for entry in entries)


def asides(ledger: Ledger, job: int) -> dict[str, str]:
    """Programs set aside in a job, with the reason."""
    with ledger.session() as session:
        rows = session.scalars(select(AsideRow).where(AsideRow.job == job)).all()
        return {row.program: row.reason for row in rows}


def write_asides(
    ledger: Ledger, label: str, job: int, wanted: dict[str, str], boots: Sequence[Boot]
) -> None:
    """Replace the programs set aside in a job, and write its boots with their figures anew."""
    with step(ledger, label, job) as session:
        for row in session.scalars(select(AsideRow).where(AsideRow.job == job)).all():
            session.delete(row)
        session.add_all(
            AsideRow(job=job, program=program, reason=reason) for program, reason in wanted.items()
        )
        for boot in boots:
            write_boot(session, boot)


def profiles(ledger: Ledger) -> tuple[StockProfile, ...]:
    """The workshop's stock profiles, in the order they were saved."""
    with ledger.session() as session:
        rows = session.scalars(select(ProfileRow).order_by(ProfileRow.number)).all()
        return tuple(from_json(row.profile, StockProfile) for row in rows)


def add_profile(ledger: Ledger, profile: StockProfile) -> None:
    """Save a stock profile; one with the same name is replaced."""
    with step(ledger, f"save the stock profile {profile.name}", None) as session:
        for row in session.scalars(select(ProfileRow)).all():
            if from_json(row.profile, StockProfile).name == profile.name:
                session.delete(row)
        session.add(ProfileRow(profile=as_json(profile)))


def setting(ledger: Ledger, name: str, kind: type[T]) -> T | None:
    """A setting of the workshop; None where it was never changed."""
    with ledger.session() as session:
        row = session.scalar(select(SettingRow).where(SettingRow.name == name))
        return from_json(row.value, kind) if row is not None else None


def write_setting(ledger: Ledger, label: str, name: str, value: object) -> None:
    """Change a setting of the workshop."""
    with step(ledger, label, None) as session:
        row = session.scalar(select(SettingRow).where(SettingRow.name == name))
        if row is None:
            row = SettingRow(name=name, value="")
            session.add(row)
        row.value = as_json(value)
