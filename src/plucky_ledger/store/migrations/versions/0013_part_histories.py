"""What parts of a job were before, at whichever bench."""

import sqlalchemy as sa
from alembic import op

revision = "0013"
down_revision = "0012"


def upgrade() -> None:
    op.create_table(
        "part_histories",
        sa.Column("number", sa.Integer, primary_key=True),
        sa.Column("job", sa.Integer, sa.ForeignKey("jobs.number"), nullable=False, index=True),
        sa.Column("identity", sa.String, nullable=False),
        sa.Column("earlier", sa.String, nullable=False),
    )
