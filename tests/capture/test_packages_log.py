"""What the package manager wrote down, from logs as they are and as they should not be."""

import gzip

from hypothesis import given
from hypothesis import strategies as st

from plucky_ledger.capture.package_log import history_lines, row_of
from plucky_ledger.exchange.history import history_from
from plucky_ledger.recording.history import HistoryLine, PackageRow


def test_logs_are_read_oldest_first_packed_ones_as_well(tmp_path):
    (tmp_path / "dpkg.log").write_text(
        "2026-05-03 10:11:12 startup archives unpack\n"
        "2026-05-03 10:11:13 install tidewatch:amd64 <none> 2.0-1\n"
        "2026-05-03 10:11:14 status installed tidewatch:amd64 2.0-1\n"
        "2026-05-04 08:00:00 remove foghorn:all 1.1 <none>\n"
    )
    with gzip.open(tmp_path / "dpkg.log.2.gz", "wt") as file:
        file.write("2026-03-01 08:00:00 upgrade ropewalk:amd64 5.5 5.6\n")
    (tmp_path / "dpkg.log.3.gz").write_bytes(b"\x1f\x8b no gzip at all")
    (line,) = history_lines(tmp_path)
    assert line.packages == (
        PackageRow("2026-03-01", "updated", "ropewalk", "5.6"),
        PackageRow("2026-05-03", "installed", "tidewatch", "2.0-1"),
        PackageRow("2026-05-04", "removed", "foghorn", "1.1"),
    )
    assert row_of("[2026-05-03T10:11:12+0200] [ALPM] upgraded quay (1.2-1 -> 1.3-1)") == PackageRow(
        "2026-05-03", "updated", "quay", "1.3-1"
    )
    assert list(history_lines(tmp_path / "none")) == []


@given(st.text(max_size=300))
def test_odd_lines_and_dates_break_nothing(text):
    row_of(text)
    row_of(f"2026-05-03 10:11:12 install {text} <none> 1")
    history_from(HistoryLine((PackageRow(text[:10], "installed", text[:50]),)))
    assert history_from(HistoryLine((PackageRow("2026-05-03", text, "quay"),))) == ()
