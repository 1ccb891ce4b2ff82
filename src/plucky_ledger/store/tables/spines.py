"""Jobs in a few words, written by the step that changes them."""

from sqlalchemy.orm import Mapped, mapped_column

from plucky_ledger.store.tables.base import Base


class SpineRow(Base):
    """What is shown of a job among all others."""

    __tablename__ = "spines"
    job: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    spine: Mapped[str]
    """JSON of core.shelf.spine.Spine."""
    rule: Mapped[int]
    """By which both were made: core.shelf.spine.SPINE_RULE."""
    lessons: Mapped[str] = mapped_column(default="", server_default="")
    """JSON of core.shelf.lessons.Lessons; empty from a step on until somebody wants it."""
