"""The tables of a ledger. Texts that hold JSON say so; instants are ISO 8601 in UTC."""

from uuid import uuid4

from sqlalchemy import ForeignKey, LargeBinary
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column


class Base(DeclarativeBase):
    """Base of all tables."""


def new_uuid() -> str:
    """A name that is the same in every ledger."""
    return str(uuid4())


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
    """JSON of a list of core.book.job.Change."""
    posted_in_boot: Mapped[str]
    """Boot id of the PC when it was posted; empty where it was on another PC."""
    uuid: Mapped[str] = mapped_column(unique=True, default=new_uuid)


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
    """JSON: measure → core.measures.Reading."""
    context: Mapped[str]
    """JSON of core.boots.boot.Context."""
    set_aside: Mapped[str]
    cut_short: Mapped[bool]
    recording: Mapped[str | None]
    """Digest of its recording; None for a boot timed by hand or typed in."""
    uuid: Mapped[str] = mapped_column(unique=True, default=new_uuid)


class RecordingRow(Base):
    """The bytes of a recording file, unchanged. Never removed, not even by undoing."""

    __tablename__ = "recordings"
    digest: Mapped[str] = mapped_column(primary_key=True)
    """SHA-256 in hexadecimal."""
    data: Mapped[bytes] = mapped_column(LargeBinary)


class StepRow(Base):
    """One bookkeeping step, which can be undone and done again."""

    __tablename__ = "steps"
    number: Mapped[int] = mapped_column(primary_key=True)
    code: Mapped[str]
    """What it did: core.steps.StepCode."""
    facts: Mapped[str]
    """JSON: the facts that go with the code."""
    job: Mapped[int | None] = mapped_column(index=True)
    """Job it belongs to; None for a step of the whole workshop."""
    undone: Mapped[bool]
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


class DecisionRow(Base):
    """What was decided about one startup entry of a job."""

    __tablename__ = "decisions"
    number: Mapped[int] = mapped_column(primary_key=True)
    job: Mapped[int] = mapped_column(ForeignKey("jobs.number"), index=True)
    entry: Mapped[str]
    """Id of the entry; a job has one decision about each."""
    decided: Mapped[str]
    """JSON of core.entries.decisions.Decided."""


class TypedEntryRow(Base):
    """A startup entry typed in, on a PC that can run nothing of ours."""

    __tablename__ = "typed_entries"
    number: Mapped[int] = mapped_column(primary_key=True)
    job: Mapped[int] = mapped_column(ForeignKey("jobs.number"), index=True)
    entry: Mapped[str]
    """JSON of core.entries.entry.StartupEntry."""


class AsideRow(Base):
    """A program that is left out of a job's account."""

    __tablename__ = "asides"
    number: Mapped[int] = mapped_column(primary_key=True)
    job: Mapped[int] = mapped_column(ForeignKey("jobs.number"), index=True)
    program: Mapped[str]
    reason: Mapped[str]


class ProfileRow(Base):
    """A stock profile, for all jobs of the workshop."""

    __tablename__ = "profiles"
    number: Mapped[int] = mapped_column(primary_key=True)
    profile: Mapped[str]
    """JSON of core.pc.stock.StockProfile."""


class SettingRow(Base):
    """One setting of the workshop."""

    __tablename__ = "settings"
    number: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str]
    value: Mapped[str]
    """JSON."""


UNDOABLE: dict[str, type[Base]] = {
    row.__tablename__: row
    for row in (JobRow, PostingRow, BootRow, DecisionRow, TypedEntryRow, AsideRow, ProfileRow,
                SettingRow)
}  # fmt: skip
