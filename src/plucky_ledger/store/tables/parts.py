"""What is known of a job from other benches."""

from sqlalchemy import ForeignKey
from sqlalchemy.orm import Mapped, mapped_column

from plucky_ledger.store.tables.base import Base
from plucky_ledger.store.tables.jobs import JobRow


class PartHistoryRow(Base):
    """What one part of a job was before, as far as no step of this ledger tells."""

    __tablename__ = "part_histories"
    number: Mapped[int] = mapped_column(primary_key=True)
    job: Mapped[int] = mapped_column(ForeignKey(JobRow.number), index=True)
    identity: Mapped[str]
    """core.job.parts.Part.identity."""
    earlier: Mapped[str]
    """JSON: digests of its content."""
