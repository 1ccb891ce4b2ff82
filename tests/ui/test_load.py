"""The load: rows of two lines, what the workshop knows of them, and now."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QDesktopServices

from plucky_ledger.core.boots.attribution import OwnerKind
from plucky_ledger.pages.load import Span
from plucky_ledger.ui.lenses.registry import LensName
from plucky_ledger.usecases.changing.decisions import decisions_in
from tests.ui.test_window import press, take_in


@pytest.fixture
def load(qtbot, on_demo):
    on_demo.right.show_lens(LensName.LOAD)
    lens = on_demo.right.load
    qtbot.waitUntil(lambda: len(lens.model.rows) > 10)
    return lens


def row_of(lens, name):
    return next(listed for listed in lens.model.rows if listed.words.name == name)


def choose(lens, name):
    at = [listed.words.name for listed in lens.model.rows].index(name)
    index = lens.table.model().mapFromSource(lens.model.index(at, 0))
    lens.table.setCurrentIndex(index)


def test_a_row_says_what_it_is_and_whose(load):
    till = row_of(load, "brassrail-till")
    assert till.words.remark.startswith("belongs to Brassrail Till")
    assert "the till of the ticket desk · brassrail 7.3 · /opt/brassrail/till" in till.words.about
    assert till.words.about.endswith("user 1000")
    assert row_of(load, "deckhand-updater").words.written == "58.8 MB written"
    page = load._answer.page
    inside = [row for row in page.rows if not row.outside]
    assert page.sums.processes == sum(row.amounts.processes for row in inside)
    there = sum(row.amounts.processes > 0 for row in inside)
    assert f"{page.sums.processes} processes of {there} programs" in load._summary.text()
    assert page.sums.bytes_written == sum(row.amounts.bytes_written for row in inside)
    assert load.table.model().rowCount() == len(page.rows)
    load.search.setText("ticket desk")
    assert load.table.model().rowCount() == 1


def test_a_program_is_looked_up_and_searched_for_only_where_the_workshop_says(
    qtbot, on_demo, load, monkeypatch
):
    opened = []
    monkeypatch.setattr(QDesktopServices, "openUrl", lambda url: opened.append(url.toString()))
    choose(load, "init")
    qtbot.mouseClick(load.look_up_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "init is on the look-up list" in on_demo.message)
    assert opened == []
    decided = decisions_in(on_demo.desk.ledger, on_demo.desk.job.number)
    assert "program:/sbin/init" in decided
    press(qtbot, on_demo, "Ctrl+K")
    panel = on_demo.panels.look_up
    qtbot.waitUntil(lambda: len(panel.fields) >= 2)
    panel.address.setText("not an address")
    panel.address.editingFinished.emit()
    qtbot.waitUntil(lambda: "begins with https://" in on_demo.message)
    panel.address.setText("https://search.example/?q={name}")
    panel.address.editingFinished.emit()
    qtbot.waitUntil(lambda: "address is saved" in on_demo.message)
    panel.leave()
    choose(load, "harbour-guard")
    qtbot.mouseClick(load.look_up_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: bool(opened))
    assert opened == ["https://search.example/?q=harbour-guard"]
    press(qtbot, on_demo, "Ctrl+Z")
    qtbot.waitUntil(lambda: on_demo.desk.busy == 0)


def test_now_shows_this_pc_live_with_its_own_cost_apart(qtbot, empty):
    take_in(qtbot, empty)
    empty.right.show_lens(LensName.LOAD)
    lens = empty.right.load
    lens._ask(span=Span.NOW)
    qtbot.waitUntil(lambda: len(lens.model.rows) > 2)
    measuring = [one for one in lens.model.rows if one.row.measuring]
    assert measuring
    assert all(one.row.outside and one.row.kind is OwnerKind.ASIDE for one in measuring)
    assert "not in the sums" in lens._summary.text()
    assert not lens.brush.isVisible()
    first = lens.now.analysis
    qtbot.waitUntil(lambda: lens.now.analysis is not first)
    qtbot.mouseClick(lens.pause_button, Qt.MouseButton.LeftButton)
    assert lens.now.paused
    assert lens.pause_button.text() == "Continue"
    qtbot.waitUntil(lambda: "Paused." in lens._summary.text())
    stood = lens.now.analysis
    qtbot.wait(1500)
    assert lens.now.analysis is stood
    qtbot.mouseClick(lens.pause_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: lens.now.analysis is not stood)
    empty.right.show_lens(LensName.STATEMENT)
    assert lens.now._errand is None  # nobody looks: nothing is read


def test_now_of_the_stand_in_is_live_and_what_is_stopped_is_gone(qtbot, on_demo, load):
    """It has been on for long: what stays is there, and one that is ended ends in sight."""
    load._ask(span=Span.NOW)
    qtbot.waitUntil(lambda: any("foghorn" in one.words.name for one in load.model.rows))
    assert any(one.row.measuring and one.row.outside for one in load.model.rows)

    def there():
        rows = (one for one in load.model.rows if one.row.amounts.processes)
        return {one.words.name for one in rows if one.row.belongs_to == "foghorn-notify"}

    (name,) = there()
    choose(load, name)
    qtbot.mouseClick(load.stop_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "freed" in on_demo.message.lower())
    qtbot.waitUntil(lambda: not there())
    load._ask(span=Span.STARTUP)
    qtbot.waitUntil(lambda: len(load.model.rows) > 10)
    assert load.now._errand is None


def test_a_double_click_leads_from_program_to_entry_to_lane(qtbot, on_demo, load):
    choose(load, "lanternprint-spool")
    load.table.doubleClicked.emit(load.table.currentIndex())
    assert on_demo.right.lens is LensName.ENTRIES
    entries = on_demo.right.entries
    qtbot.waitUntil(
        lambda: (
            entries.current is not None and entries.current.entry.entry_id == "lanternprint-agent"
        )
    )
    entries.table.doubleClicked.emit(entries.table.currentIndex())
    assert on_demo.right.lens is LensName.LANES
    assert on_demo.right.lanes.canvas.chosen == "lanternprint-agent"
    on_demo.desk.select_line(1)
    on_demo.book.lines.doubleClicked.emit(on_demo.book.model.index(1))
    assert on_demo.right.lens is LensName.VERDICT
