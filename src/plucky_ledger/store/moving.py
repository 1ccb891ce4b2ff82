"""A whole ledger from one place into another, and whether it came across row by row."""

import logging
from collections.abc import Callable, Iterator
from itertools import zip_longest
from typing import Any

from sqlalchemy import Table, func, insert, select, text
from sqlalchemy.orm import Session

from plucky_ledger.core.values.trouble import Refused, Trouble, TroubleCode
from plucky_ledger.store.kept_on_server import OnServer
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.tables import spines, steps  # noqa: F401 all tables are known then
from plucky_ledger.store.tables.base import Base

AT_ONCE = 200
"""Rows that are held in memory."""
log = logging.getLogger(__name__)
Report = Callable[[int, int], object]
"""Is told how many rows there are of how many."""


def move(source: Ledger, target: Ledger, report: Report = lambda _done, _all: None) -> int:
    """Copy every row of a ledger into an empty one, and compare them; returns how many there are.

    The one it is copied from is left as it is. It is one transaction: whatever is raised leaves the
    target empty.

    Raises:
        Refused: the target is not empty.
        Trouble: what arrived is not what was there.
    """
    tables = Base.metadata.sorted_tables
    with source.session() as there, target.writing(None) as here:
        if any(_count(here, table) for table in tables):
            raise Refused(TroubleCode.LEDGER_NOT_EMPTY, path=target.address.text)
        whole, done = sum(_count(there, table) for table in tables), 0
        for table in tables:
            for rows in _rows(there, table):
                here.execute(insert(table), rows)
                done += len(rows)
                report(done, whole)
            if isinstance(target.kept, OnServer):
                _count_on(here, table)
        for table in tables:
            _compare(there, here, table)
    log.info("%d rows from %s to %s", done, source.address.text, target.address.text)
    return done


def _count(session: Session, table: Table) -> int:
    return session.scalar(select(func.count()).select_from(table)) or 0


def _rows(session: Session, table: Table) -> Iterator[list[dict[str, Any]]]:
    ordered = select(table).order_by(*table.primary_key)
    found = session.execute(ordered.execution_options(yield_per=AT_ONCE))
    for rows in found.mappings().partitions():
        yield [dict(row) for row in rows]


def _compare(there: Session, here: Session, table: Table) -> None:
    pairs = zip_longest(_by_key(there, table), _by_key(here, table))
    for before, after in pairs:
        if before != after:
            raise Trouble(TroubleCode.NOT_MOVED, table=table.name)


def _by_key(session: Session, table: Table) -> Iterator[dict[str, Any]]:
    """Rows in an order that both have: a server orders texts as its country does."""
    keys_of = [column.name for column in table.primary_key]
    key = next(iter(table.primary_key))
    keys = sorted(set(session.scalars(select(key))))
    for first in range(0, len(keys), AT_ONCE):
        wanted = keys[first : first + AT_ONCE]
        rows = session.execute(select(table).where(key.in_(wanted))).mappings()
        yield from sorted(
            (dict(row) for row in rows), key=lambda row: [row[name] for name in keys_of]
        )


def _count_on(session: Session, table: Table) -> None:
    """New rows are numbered after those that came with their numbers."""
    key = next(iter(table.primary_key))
    sequence = session.scalar(
        text("SELECT pg_get_serial_sequence(:table, :key)"), {"table": table.name, "key": key.name}
    )
    if sequence is not None:
        highest = session.scalar(select(func.max(key)))
        session.execute(
            text("SELECT setval(:sequence, :highest, :used)"),
            {"sequence": sequence, "highest": highest or 1, "used": highest is not None},
        )
