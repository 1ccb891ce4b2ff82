"""Which boots of a job are to be taken in turns."""

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"


def upgrade() -> None:
    op.add_column("jobs", sa.Column("turns", sa.String, nullable=False, server_default=""))
