"""Startup entries typed in, and inventories of what starts."""

from sqlalchemy import ForeignKey
from sqlalchemy.orm import Mapped, mapped_column

from plucky_ledger.store.tables.base import Base
from plucky_ledger.store.tables.jobs import JobRow


class TypedEntryRow(Base):
    """A startup entry typed in, on a PC that can run nothing of ours."""

    __tablename__ = "typed_entries"
    number: Mapped[int] = mapped_column(primary_key=True)
    job: Mapped[int] = mapped_column(ForeignKey(JobRow.number), index=True)
    entry: Mapped[str]
    """JSON of core.entries.entry.StartupEntry."""


class InventoryRow(Base):
    """What the last recording of a job showed to be there, for the next to be held against."""

    __tablename__ = "inventories"
    number: Mapped[int] = mapped_column(primary_key=True)
    job: Mapped[int] = mapped_column(ForeignKey(JobRow.number), unique=True)
    inventory: Mapped[str]
    """JSON of core.job.inventory.Inventory."""
