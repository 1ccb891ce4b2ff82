"""By which method the figures of a boot were worked out; nobody knows of those that are there."""

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"


def upgrade() -> None:
    column = sa.Column("method", sa.Integer, nullable=False, server_default="0")
    op.add_column("boots", column)
