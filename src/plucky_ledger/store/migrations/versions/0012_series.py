"""Which night shift a posting was made in."""

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"


def upgrade() -> None:
    op.add_column("postings", sa.Column("series", sa.String, nullable=False, server_default=""))
