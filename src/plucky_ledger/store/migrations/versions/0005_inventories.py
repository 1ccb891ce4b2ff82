"""What the last recording of each job showed to be there, and what was expected of postings."""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"


def upgrade() -> None:
    op.create_table(
        "inventories",
        sa.Column("number", sa.Integer, primary_key=True),
        sa.Column("job", sa.Integer, sa.ForeignKey("jobs.number"), nullable=False, unique=True),
        sa.Column("inventory", sa.String, nullable=False),
    )
    op.add_column("postings", sa.Column("expected", sa.String, nullable=False, server_default="{}"))
