"""Figures that an older method worked out are worked out anew, once, whoever opens the ledger."""

import sqlite3

import pytest
from click.testing import CliRunner

from plucky_ledger.cli.main import main
from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.ui.app import open_window
from plucky_ledger.usecases.changing.programs_set_aside import set_program_aside
from plucky_ledger.usecases.jobs.clock import now
from plucky_ledger.usecases.jobs.jobs import find_job, read_job
from plucky_ledger.usecases.jobs.shelf import jobs_of_older_figures
from plucky_ledger.usecases.jobs.undo import undo
from plucky_ledger.usecases.recording.boots import add_timed, add_typed

MARKS = {Mark.POWER_ON: 0.0, Mark.DESKTOP_SHOWN: 31.0, Mark.SETTLED: 58.0}


@pytest.fixture
def figures(demo):
    """Of the demo job, with one boot timed and one typed in, by a method that went wrong since."""
    number = find_job(demo, "0417")
    add_timed(demo, number, MARKS, now())
    add_typed(demo, number, {Measure.SETTLED: 61.0}, now())
    set_program_aside(demo, number, "saltmarsh-backup", "a copy made while we measured")
    right = [boot.readings for boot in read_job(demo, number).boots]
    path = demo.path
    demo.close()
    with sqlite3.connect(path) as connection:
        wrong = '{"settled": {"value": 1.0, "censored": false}}'
        connection.execute(
            "UPDATE boots SET method = 0, readings = ? WHERE how != 'typed'", (wrong,)
        )
        connection.execute("UPDATE boots SET method = 0")
    return path, right


def test_a_command_works_them_out_anew_and_undoing_still_goes_back(figures):
    path, right = figures
    assert CliRunner().invoke(main, ["book", "0417", "--ledger", str(path)]).exit_code == 0
    with Ledger(path) as ledger:
        number = find_job(ledger, "0417")
        assert [boot.readings for boot in read_job(ledger, number).boots] == right
        assert not jobs_of_older_figures(ledger)
        undo(ledger, number)  # the program set aside is back, and what was typed in stays
        job = read_job(ledger, number)
        assert job.boots[0].readings[Measure.SETTLED] != right[0][Measure.SETTLED]
        assert job.boots[-1].readings == right[-1]


def test_the_window_works_them_out_anew_while_it_is_used(figures, qtbot):
    path, right = figures
    window = open_window(path)
    qtbot.addWidget(window)
    window.show()
    qtbot.waitUntil(
        lambda: (
            window.desk.job is not None
            and [boot.readings for boot in window.desk.job.boots] == right
        ),
        timeout=30_000,
    )
    window.close()


def test_what_is_looked_at_only_stays_as_it_is(figures):
    path, _ = figures
    with Ledger(path):  # the first to open it writes
        told = CliRunner().invoke(main, ["jobs", "--ledger", str(path)])
    assert told.exit_code == 0, told.output
    with Ledger(path) as ledger:
        assert jobs_of_older_figures(ledger)
