"""Bookkeeping steps, and which rows they can take back."""

from sqlalchemy import ForeignKey
from sqlalchemy.orm import Mapped, mapped_column

from plucky_ledger.store.tables.base import Base, new_uuid
from plucky_ledger.store.tables.decisions import AsideRow, DecisionRow
from plucky_ledger.store.tables.entries import InventoryRow, TypedEntryRow
from plucky_ledger.store.tables.jobs import BootRow, JobRow, PostingRow
from plucky_ledger.store.tables.parts import PartHistoryRow
from plucky_ledger.store.tables.workshop import ProfileRow, SettingRow


class StepRow(Base):
    """One bookkeeping step, which can be undone and done again."""

    __tablename__ = "steps"
    number: Mapped[int] = mapped_column(primary_key=True)
    code: Mapped[str]
    """What it did: core.values.steps.StepCode."""
    facts: Mapped[str]
    """JSON: the facts that go with the code."""
    job: Mapped[int | None] = mapped_column(index=True)
    """Job it belongs to; None for a step of the whole workshop."""
    undone: Mapped[bool]
    over: Mapped[bool] = mapped_column(default=False)
    """Undone, and can no longer be done again."""
    uuid: Mapped[str] = mapped_column(unique=True, default=new_uuid)
    author: Mapped[str]
    """Who took it."""
    bench: Mapped[str]
    """At which PC of the workshop."""
    taken_at: Mapped[str]
    """Empty for a step of an older version."""


class StepImageRow(Base):
    """One row as it was before and after a step (JSON; None where it did not exist)."""

    __tablename__ = "step_images"
    number: Mapped[int] = mapped_column(primary_key=True)
    step: Mapped[int] = mapped_column(ForeignKey("steps.number", ondelete="CASCADE"), index=True)
    table_name: Mapped[str]
    before: Mapped[str | None]
    after: Mapped[str | None]


UNDOABLE: dict[str, type[Base]] = {
    row.__tablename__: row
    for row in (
        JobRow,
        PostingRow,
        BootRow,
        DecisionRow,
        TypedEntryRow,
        AsideRow,
        InventoryRow,
        PartHistoryRow,
        ProfileRow,
        SettingRow,
    )
}
