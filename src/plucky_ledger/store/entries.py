"""Reading and writing typed entries and inventories of what starts, in a session."""

from collections.abc import Sequence

from sqlalchemy import select
from sqlalchemy.orm import Session

from plucky_ledger.core.entries.entry import StartupEntry
from plucky_ledger.core.job.inventory import Inventory
from plucky_ledger.store.columns import as_json, from_json
from plucky_ledger.store.tables.entries import InventoryRow, TypedEntryRow


def typed_entries(session: Session, job: int) -> tuple[StartupEntry, ...]:
    """Entries of a job that were typed in."""
    rows = session.scalars(select(TypedEntryRow).where(TypedEntryRow.job == job))
    return tuple(from_json(row.entry, StartupEntry) for row in rows)


def write_typed_entries(session: Session, job: int, entries: Sequence[StartupEntry]) -> None:
    """Replace the typed entries of a job."""
    for row in session.scalars(select(TypedEntryRow).where(TypedEntryRow.job == job)).all():
        session.delete(row)
    session.add_all(TypedEntryRow(job=job, entry=as_json(entry)) for entry in entries)


def inventory(session: Session, job: int) -> Inventory | None:
    """What a job's last recording showed to be there."""
    row = session.scalar(select(InventoryRow).where(InventoryRow.job == job))
    return from_json(row.inventory, Inventory) if row is not None else None


def write_inventory(session: Session, job: int, found: Inventory) -> None:
    """Keep what a job's PC was shown to have."""
    row = session.scalar(select(InventoryRow).where(InventoryRow.job == job))
    if row is None:
        session.add(InventoryRow(job=job, inventory=as_json(found)))
    else:
        row.inventory = as_json(found)
