"""Stable codes in place of words, a name that is the same in every ledger, who took each step."""

import json
from uuid import uuid4

import sqlalchemy as sa
from alembic import op

from plucky_ledger.store.migrations.words_to_codes import row_in_codes

revision = "0003"
down_revision = "0002"

NAMED = ("jobs", "postings", "boots", "steps")
CODED = ("jobs", "postings", "boots", "decisions", "typed_entries")


def upgrade() -> None:
    for table in NAMED:
        op.add_column(table, sa.Column("uuid", sa.String, nullable=False, server_default=""))
    op.add_column("jobs", sa.Column("pc", sa.String, nullable=False, server_default="{}"))
    op.alter_column("steps", "label", new_column_name="code")
    for name in ("author", "bench", "taken_at"):
        op.add_column("steps", sa.Column(name, sa.String, nullable=False, server_default=""))
    op.add_column("steps", sa.Column("facts", sa.String, nullable=False, server_default="{}"))
    connection = op.get_bind()
    names = _named(connection)
    _rows_in_codes(connection)
    _steps_in_codes(connection)
    _images_in_codes(connection, names)
    for table in NAMED:
        op.create_index(f"uuid_of_{table}", table, ["uuid"], unique=True)
    op.create_index("ix_steps_job", "steps", ["job"])


def _named(connection: sa.Connection) -> dict[tuple[str, int], str]:
    """Give every row its name; returns them by table and number."""
    names = {}
    for table in NAMED:
        for (number,) in connection.exec_driver_sql(f"SELECT number FROM {table}").all():  # noqa: S608
            names[table, number] = str(uuid4())
            connection.exec_driver_sql(
                f"UPDATE {table} SET uuid = ? WHERE number = ?",  # noqa: S608
                (names[table, number], number),
            )
    return names


def _rows_in_codes(connection: sa.Connection) -> None:
    for table in CODED:
        rows = connection.exec_driver_sql(f"SELECT * FROM {table}").mappings().all()  # noqa: S608
        for row in rows:
            changed = row_in_codes(table, dict(row))
            columns = [name for name in changed if changed[name] != row[name]]
            if columns:
                settings = ", ".join(f"{name} = ?" for name in columns)
                connection.exec_driver_sql(
                    f"UPDATE {table} SET {settings} WHERE number = ?",  # noqa: S608
                    (*(changed[name] for name in columns), row["number"]),
                )


def _steps_in_codes(connection: sa.Connection) -> None:
    for number, label in connection.exec_driver_sql("SELECT number, code FROM steps").all():
        connection.exec_driver_sql(
            "UPDATE steps SET code = 'told', facts = ? WHERE number = ?",
            (json.dumps({"text": label}), number),
        )


def _images_in_codes(connection: sa.Connection, names: dict[tuple[str, int], str]) -> None:
    """What undoing would put back has to be of this version, too."""
    rows = connection.exec_driver_sql(
        "SELECT number, table_name, before, after FROM step_images"
    ).all()
    for number, table, before, after in rows:
        images = [_image_in_codes(table, image, names) for image in (before, after)]
        connection.exec_driver_sql(
            "UPDATE step_images SET before = ?, after = ? WHERE number = ?", (*images, number)
        )


def _image_in_codes(table: str, image: str | None, names: dict[tuple[str, int], str]) -> str | None:
    if image is None:
        return None
    row = json.loads(image)
    if table in CODED:
        row = row_in_codes(table, row)
    if table in NAMED:
        row["uuid"] = names.setdefault((table, row["number"]), str(uuid4()))
    if table == "jobs":
        row["pc"] = row.get("pc") or row_in_codes(table, row)["pc"]
    return json.dumps(row)
