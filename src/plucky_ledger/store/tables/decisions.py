"""Decisions about startup entries and programs of a job."""

from sqlalchemy import ForeignKey
from sqlalchemy.orm import Mapped, mapped_column

from plucky_ledger.store.tables.base import Base
from plucky_ledger.store.tables.jobs import JobRow


class DecisionRow(Base):
    """What was decided about one startup entry of a job."""

    __tablename__ = "decisions"
    number: Mapped[int] = mapped_column(primary_key=True)
    job: Mapped[int] = mapped_column(ForeignKey(JobRow.number), index=True)
    entry: Mapped[str]
    """Id of the entry; a job has one decision about each."""
    decided: Mapped[str]
    """JSON of core.entries.decisions.Decided."""


class AsideRow(Base):
    """A program that is left out of a job's account."""

    __tablename__ = "asides"
    number: Mapped[int] = mapped_column(primary_key=True)
    job: Mapped[int] = mapped_column(ForeignKey(JobRow.number), index=True)
    program: Mapped[str]
    reason: Mapped[str]
