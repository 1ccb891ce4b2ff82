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
    """By which it was made: core.shelf.spine.SPINE_RULE."""
