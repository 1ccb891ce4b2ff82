"""Figures that something else has measured: from a table, shown first, in one step."""

from datetime import UTC, datetime

import pytest
from click.testing import CliRunner
from hypothesis import given
from hypothesis import strategies as st

from plucky_ledger.cli.main import main
from plucky_ledger.core.boots.boot import How
from plucky_ledger.core.boots.figures_table import SCALES, Column, RowFault, guessed, row_read
from plucky_ledger.core.job.job import Card
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.exchange.figures_table import read_table, table_from
from plucky_ledger.usecases.jobs.jobs import read_job, take_in
from plucky_ledger.usecases.jobs.undo import undo
from plucky_ledger.usecases.recording.figures_tables import previewed, take_in_table

TABLE = """\
Date;Boot time (s);Memory (GB);Note
2026-11-10T08:00+00:00;61,2;1,8;as usual
2026-11-11T08:00+00:00;63,0;;
2026-11-12T08:00+00:00;slow;1,9;
yesterday;59,5;;
;;;nothing
;-3;;
"""


@pytest.fixture
def path(tmp_path):
    written = tmp_path / "boots.csv"
    written.write_text(TABLE)
    return written


def test_a_table_is_understood_row_by_row(path):
    table = read_table(path)
    columns = guessed(table.headings)
    assert columns == {
        0: Column(None),
        1: Column(Measure.SETTLED, "s"),
        2: Column(Measure.MEMORY_HELD, "GB"),
    }
    first, second, *faulty = previewed(table, columns)
    assert first.figures == {Measure.SETTLED: 61.2, Measure.MEMORY_HELD: 1800.0}
    assert first.started_at == datetime(2026, 11, 10, 8, tzinfo=UTC)
    assert second.figures == {Measure.SETTLED: 63.0}
    assert [(row.fault, row.at) for row in faulty] == [
        (RowFault.NOT_A_NUMBER, 1),
        (RowFault.NOT_AN_INSTANT, 0),
        (RowFault.NO_FIGURE, None),
        (RowFault.CANNOT_BE, 1),
    ]


def test_its_boots_are_in_the_book_once_and_undone_in_one_step(ledger, path):
    number = take_in(ledger, Card("", "Chandlery PC"), Facts())
    table = read_table(path)
    rows = previewed(table, guessed(table.headings))
    assert take_in_table(ledger, number, rows) == 2
    boots = read_job(ledger, number).opening_boots
    assert [boot.how for boot in boots] == [How.TYPED, How.TYPED]
    assert [boot.readings[Measure.SETTLED].value for boot in boots] == [61.2, 63.0]
    with pytest.raises(Refused) as refused:
        take_in_table(ledger, number, rows)
    assert refused.value.code is TroubleCode.TABLE_IS_KNOWN
    undo(ledger, number)
    assert read_job(ledger, number).opening_boots == ()


@given(
    st.sampled_from([(m, unit) for m in Measure for unit in SCALES[m.terms.unit]]),
    st.floats(0, 5000),
    st.sampled_from(".,"),
)
def test_what_is_written_in_any_unit_is_read_in_the_measures(of, value, point):
    measure, unit = of
    text = f"{value:.6f}".replace(".", point)
    read = row_read([text], {0: Column(measure, unit)})
    assert read.figures[measure] == pytest.approx(value * SCALES[measure.terms.unit][unit], abs=0.1)


@given(st.binary(max_size=300))
def test_any_file_is_a_table_or_refused(data):
    try:
        table = table_from(data, "a.csv")
    except Refused:
        return
    columns = {**guessed(table.headings), 0: Column(Measure.READY, "s"), 1: Column(None)}
    assert len(previewed(table, columns)) == len(table.rows)


def test_on_the_command_line_it_is_shown_first(demo_path, path):
    def asked(*words):
        command = ["import-table", "0398", str(path), *words, "--ledger", str(demo_path)]
        return CliRunner().invoke(main, command)

    told = asked("--column", "3=none").output
    assert "Settled 61.2 s" in told
    assert "1,800 MB" not in told
    assert "Boot time (s): no number" in told
    assert asked("--column", "2=ready:ms", "--take").output == "2 boots are in the book.\n"
    assert asked("--take").exit_code == 0  # other figures are other boots
    assert asked("--take").exit_code == 1
    assert asked("--column", "2=magic").exit_code == 2
