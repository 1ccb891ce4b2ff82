"""Salvage of a damaged ledger: what can be read is copied row by row into a fresh one."""

import hashlib
import logging
import sqlite3
from collections import Counter
from collections.abc import Callable, Iterator, Mapping
from contextlib import closing
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from sqlalchemy.exc import SQLAlchemyError

from plucky_ledger.core.boots.stock import StockProfile
from plucky_ledger.core.entries.decisions import Decided
from plucky_ledger.core.entries.entry import StartupEntry
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.pc.which import THIS_OR_ANOTHER
from plucky_ledger.core.values.trouble import TroubleCode
from plucky_ledger.store.boots import boot_from
from plucky_ledger.store.columns import as_json, from_json
from plucky_ledger.store.errors import LedgerFault
from plucky_ledger.store.jobs import card_from, posting_from
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.tables.base import Base, new_uuid
from plucky_ledger.store.tables.decisions import AsideRow, DecisionRow
from plucky_ledger.store.tables.entries import TypedEntryRow
from plucky_ledger.store.tables.jobs import BootRow, JobRow, PostingRow, RecordingRow
from plucky_ledger.store.tables.workshop import ProfileRow, SettingRow

MOST_PROBES = 40
"""How often something further on is tried before a table is given up."""
log = logging.getLogger(__name__)

Row = Mapping[str, Any]
Kept = dict[type[Base], dict[Any, Any]]
"""What was kept of each table: its name there, and its name here."""
_ORDER: tuple[type[Base], ...] = (
    JobRow,
    PostingRow,
    RecordingRow,
    BootRow,
    DecisionRow,
    TypedEntryRow,
    AsideRow,
    ProfileRow,
    SettingRow,
)


def salvage(source: Path, target: Path) -> dict[str, int]:
    """Copy all that can be read to a new ledger; the damaged file is only looked at.

    What was undone and could be done again is not taken along. Returns how many rows of each table
    were found damaged, by its name; what stood on pages that cannot be read is not counted.

    Raises:
        LedgerFault: nothing can be read, or the new one cannot be written.
    """
    lost: Counter[str] = Counter()
    with closing(_opened(source)) as damaged, Ledger(target) as fresh:
        kept: Kept = {kind: {} for kind in _ORDER}
        tables = _tables(damaged)
        for kind in _ORDER:
            name = kind.__tablename__
            if tables is not None and name not in tables:
                continue  # a view of that name may be anything
            for row in _rows(damaged, name, lost):
                try:
                    lost[name] += _keep(fresh, kind, row, kept)
                except (LedgerFault, SQLAlchemyError, ValueError, TypeError, KeyError) as fault:
                    log.warning("%s: a row of %s is lost: %s", source, name, fault)
                    lost[name] += 1
        if not kept[JobRow]:
            raise LedgerFault(TroubleCode.LEDGER_DAMAGED, path=str(source))
    return dict(lost)


def _opened(source: Path) -> sqlite3.Connection:
    address = f"{source.absolute().as_uri()}?mode=ro&immutable=1"
    connection = sqlite3.connect(address, uri=True)
    connection.text_factory = lambda data: data.decode("utf-8", "replace")
    connection.row_factory = sqlite3.Row
    connection.execute("PRAGMA trusted_schema = OFF")
    connection.execute("PRAGMA writable_schema = ON")  # what is odd in the schema is passed over
    return connection


def _tables(damaged: sqlite3.Connection) -> set[str] | None:
    """Names of its tables; None where that cannot be read."""
    try:
        rows = damaged.execute("SELECT name FROM sqlite_master WHERE type = 'table'").fetchall()
    except sqlite3.DatabaseError:
        return None
    return {str(name) for (name,) in rows}


def _rows(damaged: sqlite3.Connection, table: str, lost: Counter[str]) -> Iterator[Row]:
    """Rows one after another; where one cannot be read, those further on."""
    last, probes = 0, 0
    while probes < MOST_PROBES:
        try:
            for row in damaged.execute(
                f"SELECT rowid AS place, * FROM {table} WHERE rowid > ? ORDER BY rowid",  # noqa: S608
                (last,),
            ):
                last, probes = row["place"], 0
                yield {name: row[name] for name in row.keys() if name != "place"}  # noqa: SIM118
            return
        except (sqlite3.DatabaseError, MemoryError, OverflowError, UnicodeDecodeError) as error:
            if probes == 0:
                log.warning("%s after %d: %s", table, last, error)
            lost[table] += probes == 0
            last += 1 << (probes // 2)
            probes += 1


def _keep(fresh: Ledger, kind: type[Base], values: Row, kept: Kept) -> bool:
    """Keep a row, mended where that can be; whether it had to be. Raises where it is lost."""
    if kind is RecordingRow:
        return _keep_recording(fresh, values, kept)
    job = values.get("job")
    if job is not None and job not in kept[JobRow]:
        raise ValueError("of a job that is lost")
    columns = dict(values)
    if kind is BootRow:
        if values["posting"] is not None and values["posting"] not in kept[PostingRow]:
            raise ValueError("of a posting that is lost")
        columns["recording"] = kept[RecordingRow].get(values["recording"])
    elif kind is JobRow:
        columns = _mended_job(values)
    row = kind(**columns)
    _CHECKS[kind](row)
    with fresh.session() as session:
        session.add(row)
    kept[kind][values["number"]] = values["number"]
    return kind is JobRow and bool(columns != dict(values))


def _keep_recording(fresh: Ledger, values: Row, kept: Kept) -> bool:
    """A damaged recording is kept under another name: what comes before the damage can be read."""
    data = bytes(values["data"])
    digest = hashlib.sha256(data).hexdigest()
    if digest not in kept[RecordingRow].values():
        with fresh.session() as session:
            session.add(RecordingRow(digest=digest, data=data, more=values["more"]))
    kept[RecordingRow][values["digest"]] = digest
    return bool(digest != values["digest"])


def _mended_job(values: Row) -> dict[str, Any]:
    """A job without what is damaged of its card: its boots are worth more than that."""
    mended = dict(values)
    for name in ("label", "title", "owner", "complaint"):
        if not isinstance(mended[name], str):
            mended[name] = ""
    for name, empty in (
        ("facts", as_json(Facts())),
        ("pc", as_json(THIS_OR_ANOTHER)),
        ("uuid", new_uuid()),
        ("turns", ""),
        ("advised", "[]"),
        ("inspected", ""),
        ("taken_in_at", datetime.fromtimestamp(0, UTC).isoformat()),
    ):
        try:
            card_from(JobRow(**{**_ANY_JOB, name: mended[name]}))
        except LedgerFault:
            mended[name] = empty
    return mended


_ANY_JOB: Row = {
    "number": 1,
    "label": "",
    "title": "",
    "owner": "",
    "complaint": "",
    "uuid": "",
    "facts": as_json(Facts()),
    "pc": as_json(THIS_OR_ANOTHER),
    "taken_in_at": datetime.fromtimestamp(0, UTC).isoformat(),
    "advised": "[]",
    "inspected": "",
}


def _texts(*names: str) -> Callable[[Any], None]:
    def check(row: Any) -> None:  # noqa: ANN401 a row of the table it is for
        for name in names:
            if not isinstance(getattr(row, name), str):
                raise TypeError(name)

    return check


_CHECKS: Mapping[type[Base], Callable[[Any], object]] = {
    JobRow: card_from,
    PostingRow: lambda row: posting_from(row, {}),
    BootRow: boot_from,
    DecisionRow: lambda row: from_json(row.decided, Decided),
    TypedEntryRow: lambda row: from_json(row.entry, StartupEntry),
    AsideRow: _texts("program", "reason"),
    ProfileRow: lambda row: from_json(row.profile, StockProfile),
    SettingRow: _texts("name", "value"),
}
