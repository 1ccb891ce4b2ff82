"""Which postings are new openings: the PC came in again."""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    op.add_column(
        "postings",
        sa.Column("opens_visit", sa.Boolean, nullable=False, server_default=sa.false()),
    )
