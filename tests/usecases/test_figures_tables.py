"""Figures that something else has measured: from a table, shown first, in one step."""

import csv
from datetime import UTC, datetime

import numpy as np
import pytest
from click.testing import CliRunner
from hypothesis import given
from hypothesis import strategies as st

from plucky_ledger.cli.main import main
from plucky_ledger.core.boots.boot import How
from plucky_ledger.core.boots.figures_table import SCALES, Column, RowFault, row_read
from plucky_ledger.core.boots.marks import PERSON_MARKS
from plucky_ledger.core.boots.samples_table import (
    QUANTITY_SCALES,
    Counted,
    Quantity,
    SampleColumn,
    SampleRow,
    counted_from,
)
from plucky_ledger.core.job.job import Card
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.core.values.reasons import ReasonCode
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.exchange.figures_table import read_table, table_from
from plucky_ledger.usecases.jobs.jobs import find_job, read_job, take_in
from plucky_ledger.usecases.jobs.undo import undo
from plucky_ledger.usecases.reading.analyses import Analyses
from plucky_ledger.usecases.recording.boots import correct_marks
from plucky_ledger.usecases.recording.figures_tables import (
    Taken,
    guessed,
    previewed,
    take_in_table,
)

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


def test_counters_grow_from_nothing_by_what_each_row_says_of_the_time_before_it():
    rows = [
        SampleRow({Quantity.AT: 1.0, Quantity.CPU: 0.5, Quantity.DISK_READ: 3e6}),
        SampleRow({Quantity.AT: 3.0, Quantity.CPU: 1.2, Quantity.DISK_BUSY: 0.25}),
    ]
    assert list(counted_from(rows, cores=2)) == [
        Counted(seconds=1.0, cpu_seconds=1.0, disk_read_bytes=3e6),
        Counted(seconds=3.0, cpu_seconds=5.0, disk_busy_seconds=0.5, disk_read_bytes=3e6),
    ]


def test_its_boots_are_in_the_book_once_and_undone_in_one_step(ledger, path):
    number = take_in(ledger, Card("", "Chandlery PC"), Facts())
    table = read_table(path)
    columns = guessed(table.headings)
    assert take_in_table(ledger, number, table, columns) == Taken(2)
    boots = read_job(ledger, number).opening_boots
    assert [boot.how for boot in boots] == [How.TYPED, How.TYPED]
    assert [boot.readings[Measure.SETTLED].value for boot in boots] == [61.2, 63.0]
    with pytest.raises(Refused) as refused:
        take_in_table(ledger, number, table, columns)
    assert refused.value.code is TroubleCode.TABLE_IS_KNOWN
    undo(ledger, number)
    assert read_job(ledger, number).opening_boots == ()


def sampled(demo, path):
    """One of the demo's boots as another program would have written its samples."""
    job = read_job(demo, find_job(demo, "0417"))
    boot = job.opening_boots[0]
    samples = Analyses().of(demo, job.number, boot).samples
    went_by = np.diff(samples.seconds, prepend=0.0)
    work = samples.cpu_seconds - samples.own_cpu_seconds
    columns = {
        "Time (s)": samples.seconds,
        "CPU (%)": 100 * np.diff(work, prepend=0.0).clip(0) / went_by / samples.cores,
        "Drive busy (%)": 100 * np.diff(samples.disk_busy_seconds, prepend=0.0) / went_by,
        "Read (MB/s)": np.diff(samples.disk_read_bytes, prepend=0.0) / went_by / 1e6,
        "Memory (GB)": samples.memory_held_bytes / 1e9,
        "Processes": samples.processes,
    }
    with path.open("w", newline="") as file:
        rows = zip(*columns.values(), strict=True)
        cells = [[f"{cell:.5f}" for cell in row] for row in rows]
        csv.writer(file).writerows([[*columns], *cells])
    return boot, len(samples)


def test_samples_of_a_boot_give_the_figures_that_a_recording_gives(demo, ledger, tmp_path):
    path = tmp_path / "samples.csv"
    boot, count = sampled(demo, path)
    table = read_table(path)
    columns = guessed(table.headings)
    assert [(one.quantity, one.unit) for one in columns.values()] == [
        (Quantity.AT, "s"),
        (Quantity.CPU, "%"),
        (Quantity.DISK_BUSY, "%"),
        (Quantity.DISK_READ, "MB/s"),
        (Quantity.MEMORY, "GB"),
        (Quantity.PROCESSES, ""),
    ]
    number = take_in(ledger, Card("", "Chandlery PC"), Facts(cores=4))
    assert take_in_table(ledger, number, table, columns) == Taken(1, count)
    (taken,) = read_job(ledger, number).opening_boots
    assert taken.how is How.TYPED
    assert [note.code for note in taken.context.notes] == [ReasonCode.FROM_TABLE]
    assert taken.readings[Measure.SETTLED].value < 20  # it was calm where it waited for somebody
    seen = {mark: at for mark, at in boot.marks.items() if mark in PERSON_MARKS}
    correct_marks(ledger, number, taken.number, seen)
    (taken,) = read_job(ledger, number).opening_boots
    assert set(taken.readings) == set(boot.readings) - {Measure.SYSTEM_UP}
    for measure, reading in taken.readings.items():
        assert reading.value == pytest.approx(boot.readings[measure].value, rel=0.02, abs=0.3)
    with pytest.raises(Refused) as refused:
        take_in_table(ledger, number, table, columns)
    assert refused.value.code is TroubleCode.TABLE_IS_KNOWN
    undo(ledger, number)
    undo(ledger, number)
    assert read_job(ledger, number).opening_boots == ()


def test_of_what_a_table_of_samples_does_not_tell_nothing_is_said(ledger):
    rows = "\n".join(f"{at},{50 if at < 30 else 1}" for at in range(1, 91))
    written = f"t (s),CPU (%)\n0,7\n{rows}\n44,3\n95,\n96,130\n"
    table = table_from(written.encode(), "a.csv")
    columns = guessed(table.headings)
    faults = [row.fault for row in previewed(table, columns) if row.fault is not None]
    assert faults == [RowFault.NOT_LATER, RowFault.NO_FIGURE, RowFault.CANNOT_BE]
    number = take_in(ledger, Card("", "Chandlery PC"), Facts())
    assert take_in_table(ledger, number, table, columns) == Taken(1, 91)
    (boot,) = read_job(ledger, number).opening_boots
    assert set(boot.readings) == {Measure.SETTLED, Measure.LOAD_AT_REST}  # of how many cores?
    assert boot.readings[Measure.SETTLED].value == pytest.approx(30, abs=1)


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
    boots = {**guessed(table.headings), 0: Column(Measure.READY, "s"), 1: Column(None)}
    samples = {0: SampleColumn(Quantity.AT, "s"), 1: SampleColumn(Quantity.CPU, "%")}
    for columns in (boots, samples):
        assert len(previewed(table, columns)) == len(table.rows)


def test_on_the_command_line_it_is_shown_first(demo_path, path):
    def asked(*words, path=path):
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
    samples = path.with_name("samples.csv")
    samples.write_text("when,busy\n1,90\n2,80\n")
    told = asked("--column", "1=sample.at:s", "--column", "2=sample.cpu", path=samples).output
    assert "1.0 s · CPU load 90 %" in told
    assert asked("--column", "1=sample.at:h", path=samples).exit_code == 2


def test_a_heading_tells_the_measure_it_is_likely_about():
    headings = {
        "settled": Measure.SETTLED,
        "load at rest": Measure.LOAD_AT_REST,
        "ready": Measure.READY,
        "system up": Measure.SYSTEM_UP,
        "CPU work": Measure.CPU_WORK,
        "read": Measure.DISK_READ,
        "memory": Measure.MEMORY_HELD,
        "processes": Measure.PROCESSES,
        "boot": Measure.SETTLED,
        "startup": Measure.SETTLED,
    }
    assert {one: guessed([one])[0].measure for one in headings} == headings
    assert guessed(["remarks"]) == {}


SAME = (
    {"min": 1.0, "s": 60.0, "ms": 60_000.0},
    {"GB": 1.0, "MB": 1e3, "kB": 1e6, "MiB": 1e9 / 2**20, "GiB": 1e9 / 2**30},
    {"MB/s": 1.0, "kB/s": 1e3, "MiB/s": 1e6 / 2**20, "KiB/s": 1e6 / 2**10},
)


@pytest.mark.parametrize("scales", [*SCALES.values(), *QUANTITY_SCALES.values()])
def test_the_same_amount_in_every_unit_is_the_same_figure(scales):
    for amounts in SAME:
        told = {amount * scales[unit] for unit, amount in amounts.items() if unit in scales}
        assert not told or max(told) == pytest.approx(min(told))
