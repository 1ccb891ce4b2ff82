"""What a PC's own logs say of months, from logs as they are and as they should not be."""

import gzip
import json
import sqlite3
from contextlib import closing
from pathlib import Path
from tempfile import TemporaryDirectory

import msgspec
from hypothesis import given
from hypothesis import strategies as st

from plucky_ledger.capture.log.start_log import starts
from plucky_ledger.capture.log.system_log import wakes_in
from plucky_ledger.capture.packages import alpm, dpkg, rpm
from plucky_ledger.capture.packages.package_log import package_rows
from plucky_ledger.exchange.history import history_from, power_log_from
from plucky_ledger.linux.sign_in_records import SHORT
from plucky_ledger.recording.history import HistoryLine, PackageRow


def test_logs_are_read_oldest_first_packed_ones_as_well(tmp_path):
    logs = tmp_path / "var/log"
    (logs / "zypp").mkdir(parents=True)
    (logs / "dpkg.log").write_text(
        "2026-05-03 10:11:12 startup archives unpack\n"
        "2026-05-03 10:11:13 install tidewatch:amd64 <none> 2.0-1\n"
        "2026-05-03 10:11:14 status installed tidewatch:amd64 2.0-1\n"
        "2026-05-04 08:00:00 remove foghorn:all 1.1 <none>\n"
    )
    with gzip.open(logs / "dpkg.log.2.gz", "wt") as file:
        file.write("2026-03-01 08:00:00 upgrade ropewalk:amd64 5.5 5.6\n")
    (logs / "dpkg.log.3.gz").write_bytes(b"\x1f\x8b no gzip at all")
    assert package_rows(tmp_path) == (
        PackageRow("2026-03-01", "updated", "ropewalk", "5.6"),
        PackageRow("2026-05-03", "installed", "tidewatch", "2.0-1"),
        PackageRow("2026-05-04", "removed", "foghorn", "1.1"),
    )
    for name in ("dpkg.log", "dpkg.log.2.gz"):
        (logs / name).unlink()
    (logs / "pacman.log").write_text(
        "[2026-05-01T10:11:12+0200] [ALPM] upgraded quay (1.2-1 -> 1.3-1)\n"
    )
    (logs / "dnf.rpm.log").write_text(
        "2026-05-02T10:11:12+0200 SUBDEBUG Upgrade: quay-lib-2:1.3-4.x86_64\n"
        "2026-05-02T10:11:12+0200 SUBDEBUG Upgraded: quay-lib-1.2-4.x86_64\n"
    )
    (logs / "zypp/history").write_text(
        "2026-05-03 10:11:12|install|quay|1.3-4.1|x86_64||repository|sum|\n"
        "2026-05-04 10:11:12|remove |quay|1.3-4.1|x86_64||\n"
    )
    assert package_rows(tmp_path) == (
        PackageRow("2026-05-01", "updated", "quay", "1.3-1"),
        PackageRow("2026-05-02", "updated", "quay-lib", "2:1.3-4"),
        PackageRow("2026-05-03", "installed", "quay", "1.3-4.1"),
        PackageRow("2026-05-04", "removed", "quay", "1.3-4.1"),
    )
    assert package_rows(tmp_path / "none") == ()


@given(st.text(max_size=300))
def test_odd_lines_and_dates_break_nothing(text):
    for logged in (alpm.logged, dpkg.logged, rpm.logged):
        logged(text)
    dpkg.logged(f"2026-05-03 10:11:12 install {text} <none> 1")
    history_from(HistoryLine((PackageRow(text[:10], "installed", text[:50]),)))
    assert history_from(HistoryLine((PackageRow("2026-05-03", text, "quay"),))) == ()


def start_record(kind, seconds):
    return SHORT.pack(kind, 0, b"~", b"~~", b"reboot", b"6.1.0", 0, 0, 0, seconds, 0, b"", b"")


def test_starts_are_read_of_either_log(tmp_path):
    (tmp_path / "log").mkdir()
    records = start_record(2, 1_760_000_000) + start_record(7, 1_760_000_100)
    (tmp_path / "log/wtmp.1").write_bytes(records)
    (tmp_path / "log/wtmp").write_bytes(start_record(2, 1_770_000_000) + b"cut off")
    assert starts(tmp_path) == (1_760_000_000.0, 1_770_000_000.0)
    (tmp_path / "lib/wtmpdb").mkdir(parents=True)
    with closing(sqlite3.connect(tmp_path / "lib/wtmpdb/wtmp.db")) as database:
        database.execute("create table wtmp (ID integer, Type integer, Login integer)")
        database.executemany(
            "insert into wtmp values (?, ?, ?)",
            [(1, 1, 1_780_000_000_500_000), (2, 3, 1_780_000_100_000_000), (3, 1, "soon")],
        )
        database.commit()
    assert starts(tmp_path)[-1] == 1_780_000_000.0
    (tmp_path / "lib/wtmpdb/wtmp.db").write_bytes(b"no database")
    assert starts(tmp_path) == (1_760_000_000.0, 1_770_000_000.0)
    assert starts(tmp_path / "none") == ()


@given(st.binary(max_size=3 * SHORT.size))
def test_any_log_of_starts_can_be_written_down(data):
    with TemporaryDirectory() as folder:
        log = Path(folder) / "log"
        log.mkdir()
        (log / "wtmp").write_bytes(data)
        line = HistoryLine(starts=starts(Path(folder)))
    assert msgspec.json.decode(msgspec.json.encode(line), type=HistoryLine) == line
    power_log_from(line)


def test_wakes_are_read_of_the_journal():
    lines = [
        json.dumps({"__REALTIME_TIMESTAMP": wall}).encode()
        for wall in ("1770000000250000", "x", "1760000000000000", str(10**20))
    ]
    assert wakes_in([b"{", *lines]) == (1_760_000_000.0, 1_770_000_000.25)
