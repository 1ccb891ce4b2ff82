"""Reading and writing what belongs to the whole workshop, within a session."""

from typing import TypeVar

from sqlalchemy import select
from sqlalchemy.orm import Session

from plucky_ledger.core.boots.stock import StockProfile
from plucky_ledger.store.columns import as_json, from_json
from plucky_ledger.store.tables.workshop import ProfileRow, SettingRow

T = TypeVar("T")


def profiles(session: Session) -> tuple[StockProfile, ...]:
    """The workshop's stock profiles, in the order they were saved."""
    rows = session.scalars(select(ProfileRow).order_by(ProfileRow.number))
    return tuple(from_json(row.profile, StockProfile) for row in rows)


def add_profile(session: Session, profile: StockProfile) -> None:
    """Save a stock profile; one with the same name is replaced."""
    for row in session.scalars(select(ProfileRow)).all():
        if from_json(row.profile, StockProfile).name == profile.name:
            session.delete(row)
    session.add(ProfileRow(profile=as_json(profile)))


def setting(session: Session, name: str, kind: type[T]) -> T | None:
    """A setting of the workshop; None where it was never changed."""
    row = session.scalar(select(SettingRow).where(SettingRow.name == name))
    return from_json(row.value, kind) if row is not None else None


def write_setting(session: Session, name: str, value: object) -> None:
    """Change a setting of the workshop."""
    row = session.scalar(select(SettingRow).where(SettingRow.name == name))
    if row is None:
        row = SettingRow(name=name, value="")
        session.add(row)
    row.value = as_json(value)
