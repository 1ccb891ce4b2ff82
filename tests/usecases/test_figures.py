"""Figures that an older method worked out are worked out anew, once, whoever opens the ledger."""

import pytest
from click.testing import CliRunner

from plucky_ledger.cli.main import main
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.jobs.jobs import find_job, read_job
from plucky_ledger.usecases.jobs.shelf import jobs_of_older_figures
from plucky_ledger.usecases.jobs.undo import undo
from tests.helpers.older_figures import of_an_older_method


@pytest.mark.in_a_file
def test_a_command_works_them_out_anew_and_undoing_still_goes_back(demo):
    path, right = of_an_older_method(demo)
    assert CliRunner().invoke(main, ["book", "0417", "--ledger", str(path)]).exit_code == 0
    with Ledger(path) as ledger:
        number = find_job(ledger, "0417")
        assert [boot.readings for boot in read_job(ledger, number).boots] == right
        assert not jobs_of_older_figures(ledger)
        undo(ledger, number)  # the program set aside is back, and what was typed in stays
        job = read_job(ledger, number)
        assert job.boots[0].readings[Measure.SETTLED] != right[0][Measure.SETTLED]
        assert job.boots[-1].readings == right[-1]


@pytest.mark.in_a_file
def test_what_is_looked_at_only_stays_as_it_is(demo):
    path, _ = of_an_older_method(demo)
    with Ledger(path):  # the first to open it writes
        told = CliRunner().invoke(main, ["jobs", "--ledger", str(path)])
    assert told.exit_code == 0, told.output
    with Ledger(path) as ledger:
        assert jobs_of_older_figures(ledger)
