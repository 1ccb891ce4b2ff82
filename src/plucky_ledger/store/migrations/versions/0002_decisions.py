"""Decisions about entries, entries typed in, programs set aside, stock profiles and settings."""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    op.create_table(
        "decisions",
        sa.Column("number", sa.Integer, primary_key=True),
        sa.Column("job", sa.Integer, sa.ForeignKey("jobs.number"), nullable=False, index=True),
        sa.Column("entry", sa.String, nullable=False),
        sa.Column("decided", sa.String, nullable=False),
    )
    op.create_table(
        "typed_entries",
        sa.Column("number", sa.Integer, primary_key=True),
        sa.Column("job", sa.Integer, sa.ForeignKey("jobs.number"), nullable=False, index=True),
        sa.Column("entry", sa.String, nullable=False),
    )
    op.create_table(
        "asides",
        sa.Column("number", sa.Integer, primary_key=True),
        sa.Column("job", sa.Integer, sa.ForeignKey("jobs.number"), nullable=False, index=True),
        sa.Column("program", sa.String, nullable=False),
        sa.Column("reason", sa.String, nullable=False),
    )
    op.create_table(
        "profiles",
        sa.Column("number", sa.Integer, primary_key=True),
        sa.Column("profile", sa.String, nullable=False),
    )
    op.create_table(
        "settings",
        sa.Column("number", sa.Integer, primary_key=True),
        sa.Column("name", sa.String, nullable=False),
        sa.Column("value", sa.String, nullable=False),
    )
