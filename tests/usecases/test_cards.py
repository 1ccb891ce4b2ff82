"""Boots timed by hand on a card: printed, read back in any way they may be written, in one step."""

from datetime import date

import pytest
from click.testing import CliRunner
from hypothesis import given
from hypothesis import strategies as st

from plucky_ledger.cli.main import main
from plucky_ledger.core.boots.boot import How
from plucky_ledger.core.boots.card import card_row, duration_in
from plucky_ledger.core.boots.figures_table import RowFault
from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.core.job.job import Card
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.core.values.trouble import Refused
from plucky_ledger.usecases.jobs.jobs import read_job, take_in
from plucky_ledger.usecases.jobs.undo import undo
from plucky_ledger.usecases.recording.cards import read_card, take_in_card

TODAY = date(2026, 11, 12)


def test_a_row_is_read_as_it_is_written():
    row = card_row(["8:46", "31.5", "38", "52", "1:12,3"], TODAY)
    assert row.marks == {
        Mark.POWER_ON: 0.0,
        Mark.SIGN_IN_SHOWN: 31.5,
        Mark.SIGNED_IN: 38.0,
        Mark.DESKTOP_SHOWN: 52.0,
        Mark.READY: 72.3,
    }
    assert row.started_at.isoformat(timespec="minutes").startswith("2026-11-12T08:46")
    other_day = card_row(["2026-11-10 08:00", "", "", "", "61"], TODAY)
    assert other_day.started_at.day == 10
    assert set(other_day.marks) == {Mark.POWER_ON, Mark.READY}
    assert card_row(["", " ", "", "", ""], TODAY) is None
    for cells, fault, at in (
        (["soon", "1", "", "", ""], RowFault.NOT_AN_INSTANT, 0),
        (["", "1", "x", "", ""], RowFault.NOT_A_NUMBER, 2),
        (["", "1:72", "", "", ""], RowFault.NOT_A_NUMBER, 1),
        (["", "99999", "", "", ""], RowFault.CANNOT_BE, 1),
        (["8:46", "", "", "", ""], RowFault.NO_FIGURE, None),
        (["", "40", "30", "", ""], RowFault.NOT_LATER, None),
    ):
        row = card_row(cells, TODAY)
        assert (row.fault, row.at) == (fault, at)


@given(st.integers(0, 59), st.integers(0, 599))
def test_minutes_and_seconds_are_seconds(minutes, tenths):
    written = f"{minutes}:{tenths / 10:04.1f}"
    assert duration_in(written) == pytest.approx(60 * minutes + tenths / 10)
    assert duration_in(written.replace(".", ",")) == duration_in(written)


def test_the_boots_of_a_card_are_one_step(ledger):
    number = take_in(ledger, Card("", "Chandlery PC"), Facts())
    rows = read_card([["2026-11-10 08:00", "30", "35", "50", "61.5"], [""] * 5, ["", "9", "8"]])
    assert take_in_card(ledger, number, rows) == 1
    (boot,) = read_job(ledger, number).opening_boots
    assert boot.how is How.STOPWATCH
    assert boot.readings[Measure.READY].value == pytest.approx(56.5)  # 5 s waited for a person
    undo(ledger, number)
    assert read_job(ledger, number).opening_boots == ()
    with pytest.raises(Refused):
        take_in_card(ledger, number, rows[1:])


def test_the_card_is_written_to_be_printed(demo_path, tmp_path):
    out = tmp_path / "card.html"
    told = CliRunner().invoke(main, ["card", "0417", "--out", str(out), "--ledger", str(demo_path)])
    assert told.output == f"The card is in {out}.\n"
    written = out.read_text()
    assert "job 0417 · Ticket-desk PC" in written
    assert written.count("<tr>") == 9
