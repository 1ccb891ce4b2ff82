"""Jobs with their postings, boots and recordings."""

from sqlalchemy import ForeignKey, LargeBinary
from sqlalchemy.orm import Mapped, mapped_column

from plucky_ledger.store.tables.base import Base, new_uuid


class JobRow(Base):
    """One job: its card and facts."""

    __tablename__ = "jobs"
    number: Mapped[int] = mapped_column(primary_key=True)
    label: Mapped[str]
    title: Mapped[str]
    owner: Mapped[str]
    complaint: Mapped[str]
    facts: Mapped[str]
    """JSON of core.pc.facts.Facts."""
    taken_in_at: Mapped[str]
    pc: Mapped[str]
    """JSON of core.pc.which.WhichPc."""
    turns: Mapped[str] = mapped_column(default="")
    """JSON of core.job.job.Turns; empty for none."""
    advised: Mapped[str] = mapped_column(default="[]")
    """JSON of what is on the statement: core.job.advised.Advised."""
    inspected: Mapped[str] = mapped_column(default="")
    """JSON of what the administrator was told, core.pc.condition.Inspected; empty for nothing."""
    uuid: Mapped[str] = mapped_column(unique=True, default=new_uuid)


class PostingRow(Base):
    """One posting."""

    __tablename__ = "postings"
    number: Mapped[int] = mapped_column(primary_key=True)
    job: Mapped[int] = mapped_column(ForeignKey("jobs.number"), index=True)
    title: Mapped[str]
    posted_at: Mapped[str | None]
    strikes_out: Mapped[int | None]
    changes: Mapped[str]
    """JSON of a list of core.job.job.Change."""
    posted_in_boot: Mapped[str]
    """Boot id of the PC when it was posted; empty where it was on another PC."""
    uuid: Mapped[str] = mapped_column(unique=True, default=new_uuid)
    expected: Mapped[str] = mapped_column(default="{}")
    """JSON: measure → core.values.estimates.Estimate."""
    opens_visit: Mapped[bool] = mapped_column(default=False)
    """The PC came in again with it."""
    series: Mapped[str] = mapped_column(default="")
    """The night shift it was made in; empty for none."""


class BootRow(Base):
    """One boot as the book needs it; what happened over time is in its recording."""

    __tablename__ = "boots"
    number: Mapped[int] = mapped_column(primary_key=True)
    job: Mapped[int] = mapped_column(ForeignKey("jobs.number"), index=True)
    posting: Mapped[int | None] = mapped_column(ForeignKey("postings.number"))
    """Posting whose round it belongs to; None for the opening round."""
    boot_id: Mapped[str] = mapped_column(index=True)
    started_at: Mapped[str]
    how: Mapped[str]
    marks: Mapped[str]
    """JSON: mark name → seconds."""
    readings: Mapped[str]
    """JSON: measure → core.values.measures.Reading."""
    context: Mapped[str]
    """JSON of core.boots.boot.Context."""
    set_aside: Mapped[str]
    cut_short: Mapped[bool]
    method: Mapped[int] = mapped_column(default=0)
    """Method by which its readings were worked out; 0 where unknown."""
    recording: Mapped[str | None]
    """Digest of its recording; None for a boot timed by hand or typed in."""
    uuid: Mapped[str] = mapped_column(unique=True, default=new_uuid)


class RecordingRow(Base):
    """The bytes of a recording file, unchanged. Never removed, not even by undoing; the slow look
    that follows its end may be added.
    """

    __tablename__ = "recordings"
    digest: Mapped[str] = mapped_column(primary_key=True)
    """SHA-256 of ``data``, in hexadecimal."""
    data: Mapped[bytes] = mapped_column(LargeBinary)
    more: Mapped[bytes | None] = mapped_column(LargeBinary, default=None)
    """What was written after it came into the book."""
