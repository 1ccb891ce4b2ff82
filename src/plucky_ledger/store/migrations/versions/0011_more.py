"""What was added to a recording after it came into the book: the slow look that follows its end."""

import sqlalchemy as sa
from alembic import op

revision = "0011"
down_revision = "0010"


def upgrade() -> None:
    op.add_column("recordings", sa.Column("more", sa.LargeBinary, nullable=True))
