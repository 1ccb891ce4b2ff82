"""Advice that the owner of a job's PC is to read."""

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"


def upgrade() -> None:
    op.add_column("jobs", sa.Column("advised", sa.String, nullable=False, server_default="[]"))
