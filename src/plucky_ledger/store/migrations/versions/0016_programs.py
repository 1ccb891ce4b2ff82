"""What each job taught of programs lies in rows of its own, found by the program."""

import sqlalchemy as sa
from alembic import op

revision = "0016"
down_revision = "0015"


def upgrade() -> None:
    op.drop_column("spines", "lessons")
    op.add_column("spines", sa.Column("plans", sa.String, nullable=False, server_default=""))
    op.create_table(
        "lessons",
        sa.Column("job", sa.Integer, primary_key=True, autoincrement=False),
        sa.Column("entry", sa.String, primary_key=True),
        sa.Column("package", sa.String, nullable=False, index=True),
        sa.Column("executable", sa.String, nullable=False, index=True),
        sa.Column("known_as", sa.String, nullable=False, index=True),
        sa.Column("looked_up", sa.Boolean, nullable=False),
        sa.Column("changed", sa.Boolean, nullable=False),
        sa.Column("put_back", sa.Boolean, nullable=False),
        sa.Column("saved_seconds", sa.Float),
        sa.Column("decided", sa.String, nullable=False),
    )
