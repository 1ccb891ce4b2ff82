"""Jobs in a few words, written by the step that changes them, and what each taught of programs."""

from sqlalchemy.orm import Mapped, mapped_column

from plucky_ledger.store.tables.base import Base


class SpineRow(Base):
    """What is shown of a job among all others."""

    __tablename__ = "spines"
    job: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    spine: Mapped[str]
    """JSON of core.shelf.spine.Spine."""
    rule: Mapped[int]
    """By which it was made: core.shelf.spine.SPINE_RULE."""
    plans: Mapped[str] = mapped_column(default="", server_default="")
    """JSON of a list of core.book.plans.PlanHeld; empty from a step on until somebody wants to know
    what the job taught."""


class LessonRow(Base):
    """What one job taught of one program."""

    __tablename__ = "lessons"
    job: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    entry: Mapped[str] = mapped_column(primary_key=True)
    """Id of the entry in the job."""
    package: Mapped[str] = mapped_column(index=True)
    """By what it is known on other jobs, and so are the next two; empty where by nothing."""
    executable: Mapped[str] = mapped_column(index=True)
    known_as: Mapped[str] = mapped_column(index=True)
    looked_up: Mapped[bool]
    """Whether somebody is to find out about it, or has."""
    changed: Mapped[bool]
    """Whether it was decided to start it later or not at all."""
    put_back: Mapped[bool]
    saved_seconds: Mapped[float | None]
    """By how much sooner the PC settled; None where no boots tell it of this change alone."""
    decided: Mapped[str]
    """JSON of core.entries.decisions.Decided."""
