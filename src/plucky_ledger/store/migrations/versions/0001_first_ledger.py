"""The first ledger: jobs, postings, boots, recordings and the steps that can be undone."""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None


def upgrade() -> None:
    op.create_table(
        "jobs",
        sa.Column("number", sa.Integer, primary_key=True),
        sa.Column("label", sa.String, nullable=False),
        sa.Column("title", sa.String, nullable=False),
        sa.Column("owner", sa.String, nullable=False),
        sa.Column("complaint", sa.String, nullable=False),
        sa.Column("facts", sa.String, nullable=False),
        sa.Column("taken_in_at", sa.String, nullable=False),
    )
    op.create_table(
        "postings",
        sa.Column("number", sa.Integer, primary_key=True),
        sa.Column("job", sa.Integer, sa.ForeignKey("jobs.number"), nullable=False, index=True),
        sa.Column("title", sa.String, nullable=False),
        sa.Column("posted_at", sa.String),
        sa.Column("strikes_out", sa.Integer),
        sa.Column("changes", sa.String, nullable=False),
    )
    op.create_table(
        "boots",
        sa.Column("number", sa.Integer, primary_key=True),
        sa.Column("job", sa.Integer, sa.ForeignKey("jobs.number"), nullable=False, index=True),
        sa.Column("posting", sa.Integer, sa.ForeignKey("postings.number")),
        sa.Column("boot_id", sa.String, nullable=False, index=True),
        sa.Column("started_at", sa.String, nullable=False),
        sa.Column("how", sa.String, nullable=False),
        sa.Column("marks", sa.String, nullable=False),
        sa.Column("readings", sa.String, nullable=False),
        sa.Column("context", sa.String, nullable=False),
        sa.Column("set_aside", sa.String, nullable=False),
        sa.Column("cut_short", sa.Boolean, nullable=False),
        sa.Column("recording", sa.String),
    )
    op.create_table(
        "recordings",
        sa.Column("digest", sa.String, primary_key=True),
        sa.Column("data", sa.LargeBinary, nullable=False),
    )
    op.create_table(
        "steps",
        sa.Column("number", sa.Integer, primary_key=True),
        sa.Column("label", sa.String, nullable=False),
        sa.Column("job", sa.Integer),
        sa.Column("undone", sa.Boolean, nullable=False),
    )
    op.create_table(
        "step_images",
        sa.Column("number", sa.Integer, primary_key=True),
        sa.Column(
            "step",
            sa.Integer,
            sa.ForeignKey("steps.number", ondelete="CASCADE"),
            nullable=False,
            index=True,
        ),
        sa.Column("table_name", sa.String, nullable=False),
        sa.Column("before", sa.String),
        sa.Column("after", sa.String),
    )
