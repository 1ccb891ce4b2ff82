"""Where many benches write: steps that are over stay, who has a job, and each job in few words."""

import sqlalchemy as sa
from alembic import op

revision = "0014"
down_revision = "0013"


def upgrade() -> None:
    op.add_column("steps", sa.Column("over", sa.Boolean, nullable=False, server_default=sa.false()))
    op.create_table(
        "spines",
        sa.Column("job", sa.Integer, primary_key=True, autoincrement=False),
        sa.Column("spine", sa.String, nullable=False),
        sa.Column("rule", sa.Integer, nullable=False),
    )
    op.create_table(
        "job_holders",
        sa.Column("job", sa.Integer, primary_key=True, autoincrement=False),
        sa.Column("process", sa.Integer, nullable=False),
        sa.Column("who", sa.String, nullable=False),
        sa.Column("since", sa.DateTime(timezone=True), nullable=False),
    )
