"""Bringing a ledger's tables up to date with Alembic, one transaction a migration."""

from pathlib import Path

from sqlalchemy import Connection

NEWEST = "0016"
"""Name of the newest migration; they are numbered."""
KNOWN = frozenset(f"{number:04}" for number in range(1, int(NEWEST) + 1))


def bring_up_to_date(connection: Connection) -> None:
    """Run the migrations the ledger has not seen; a migration that fails leaves nothing behind."""
    from alembic import command
    from alembic.config import Config

    config = Config()
    config.set_main_option(
        "script_location", str(Path(__file__).parent / "migrations").replace("%", "%%")
    )
    config.attributes["connection"] = connection
    command.upgrade(config, "head")
    connection.commit()
