"""What belongs to the whole workshop."""

from sqlalchemy.orm import Mapped, mapped_column

from plucky_ledger.store.tables.base import Base


class ProfileRow(Base):
    """A stock profile, for all jobs of the workshop."""

    __tablename__ = "profiles"
    number: Mapped[int] = mapped_column(primary_key=True)
    profile: Mapped[str]
    """JSON of core.boots.stock.StockProfile."""


class SettingRow(Base):
    """One setting of the workshop."""

    __tablename__ = "settings"
    number: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str]
    value: Mapped[str]
    """JSON."""
