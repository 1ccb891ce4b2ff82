"""In which boot a posting was made: clocks alone do not tell what came before and after."""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"


def upgrade() -> None:
    op.add_column(
        "postings", sa.Column("posted_in_boot", sa.String, nullable=False, server_default="")
    )
