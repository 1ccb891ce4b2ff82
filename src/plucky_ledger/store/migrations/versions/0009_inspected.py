"""What the administrator was told of a job's PC."""

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"


def upgrade() -> None:
    column = sa.Column("inspected", sa.String, nullable=False, server_default="")
    op.add_column("jobs", column)
