"""What each job taught of programs lies with its spine."""

import sqlalchemy as sa
from alembic import op

revision = "0015"
down_revision = "0014"


def upgrade() -> None:
    op.add_column("spines", sa.Column("lessons", sa.String, nullable=False, server_default=""))
