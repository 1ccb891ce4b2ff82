"""What somebody meets in the first hour: nothing moves, and nothing is done by surprise."""

from dataclasses import replace

import pytest
from PySide6.QtCore import QMimeData, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent
from PySide6.QtWidgets import QApplication

from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.job.job import Card
from plucky_ledger.core.job.noticed import reappeared_entries
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.shelf.spine import spine_of
from plucky_ledger.core.values.reasons import Reason, ReasonCode
from plucky_ledger.pages.shelf import shelf
from plucky_ledger.standin.simulated_pc import RECORD_SECONDS
from plucky_ledger.ui import file_dialogs
from plucky_ledger.ui.lenses.registry import LensName
from plucky_ledger.usecases.jobs.jobs import read_job, take_in
from plucky_ledger.usecases.jobs.preferences import Preferences, read_preferences
from plucky_ledger.usecases.recording.boots import import_recording
from plucky_ledger.usecases.recording.stand_ins import stand_in_of
from plucky_ledger.wording.shelf import state
from tests.helpers.standin import record_to
from tests.ui.conftest import confirm
from tests.ui.test_window import press, settle

LONG = "Take note of this. " * 30


def geometry(window):
    return [widget.geometry() for widget in (window.book, window.right, window.main)]


def test_a_message_moves_nothing_and_is_of_its_moment(qtbot, on_demo):
    before = geometry(on_demo)
    on_demo.desk.door.say(LONG)
    QApplication.processEvents()
    assert geometry(on_demo) == before
    line = on_demo.message_line
    assert line.details_button.isVisible()
    qtbot.mouseClick(line.details_button, Qt.MouseButton.LeftButton)
    assert on_demo.panels.details.words.text() == LONG
    press(qtbot, on_demo, "2")
    assert on_demo.message == ""
    assert on_demo.right.lens is LensName.ENTRIES
    on_demo.desk.door.say("Short.")
    assert not line.details_button.isVisible()
    on_demo.right.head.lenses.button(3).click()
    assert on_demo.message == ""


def test_single_keys_act_only_on_what_is_listed(qtbot, on_demo):
    press(qtbot, on_demo, "2")
    lens = on_demo.right.entries
    qtbot.waitUntil(lambda: lens.ready)
    lens.table.selectRow(2)
    pencilled = on_demo.desk.job.pencilled
    on_demo.panels.show_look_up()
    qtbot.waitUntil(on_demo.panels.look_up.isVisible)
    for place in (
        on_demo.panels.look_up,
        on_demo.book.lines,
        lens.filter.search,
        on_demo.book.button,
    ):
        place.setFocus()
        for key in (Qt.Key.Key_O, Qt.Key.Key_K, Qt.Key.Key_L, Qt.Key.Key_R, Qt.Key.Key_U):
            qtbot.keyClick(place, key)
        settle(qtbot, on_demo)
    assert on_demo.desk.job.pencilled == pencilled
    assert not on_demo.panels.putting_back.isVisible()
    lens.filter.search.clear()
    press(qtbot, on_demo, "2")
    lens.table.setFocus()
    qtbot.keyClick(lens.table, Qt.Key.Key_K)
    qtbot.waitUntil(lambda: on_demo.desk.job.pencilled != pencilled or on_demo.desk.busy == 0)
    settle(qtbot, on_demo)
    decided = lens.model.rows[2].row.decided
    assert decided is not None


def test_posting_is_agreed_to_after_a_look_and_left_with_escape(qtbot, on_demo):
    qtbot.waitUntil(lambda: on_demo.desk.expected is not None)
    press(qtbot, on_demo, "Ctrl+Return")
    panel = on_demo.panels.posting
    qtbot.waitUntil(lambda: bool(panel.planned))
    for words in ("Ticket-desk PC", "Predicted", "sooner", "Restart afterwards"):
        assert words in panel._hint.text()
    qtbot.keyClick(panel.do_button, Qt.Key.Key_Escape)
    assert not panel.isVisible()
    assert on_demo.desk.job.pencilled is not None
    press(qtbot, on_demo, "Ctrl+Shift+U")
    putting_back = on_demo.panels.putting_back
    qtbot.waitUntil(lambda: len(putting_back.planned) > 3)
    assert on_demo.desk.job.postings == on_demo.desk.job.postings
    press(qtbot, on_demo, "Ctrl+Return")
    confirm(qtbot, panel)
    settle(qtbot, on_demo)
    assert on_demo.desk.job.pencilled is None


def test_return_on_another_button_does_what_that_says(qtbot, on_demo):
    press(qtbot, on_demo, "Ctrl+Return")
    panel = on_demo.panels.posting
    qtbot.waitUntil(lambda: bool(panel.planned))
    panel.leave_button.setFocus()
    qtbot.keyClick(panel.leave_button, Qt.Key.Key_Return)
    settle(qtbot, on_demo)
    assert not panel.isVisible()
    assert on_demo.desk.job.pencilled is not None


def test_the_shelf_opens_what_was_found_first_and_says_when_nothing_is(qtbot, on_demo):
    press(qtbot, on_demo, "Ctrl+J")
    view = on_demo.shelf
    qtbot.waitUntil(view.isVisible)
    qtbot.waitUntil(lambda: view.model.rowCount() == 2)
    qtbot.keyClicks(view.search, "zeppelin")
    assert view.none_found.isVisible()
    assert "zeppelin" in view.none_found.text()
    view.show_all_button.click()
    assert view.spines.isVisible()
    qtbot.keyClicks(view.search, "gift")
    qtbot.keyClick(view.search, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: on_demo.desk.job is not None)
    assert on_demo.desk.job.card.title == "Gift-shop PC"


def test_what_is_to_be_done_stands_first_on_the_shelf(on_demo):
    ledger = on_demo.desk.ledger
    quiet, busy = (read_job(ledger, spine.job) for spine in reversed(on_demo.desk.shelf))
    boot = quiet.postings[-1].boots[-1]
    back = Reason(ReasonCode.CAME_BACK, {"name": "Foghorn", "entry": "foghorn"})
    noticed = replace(boot, context=replace(boot.context, noticed=(back,)))
    last = replace(quiet.postings[-1], boots=(*quiet.postings[-1].boots[:-1], noticed))
    came_back = replace(quiet, postings=(*quiet.postings[:-1], last))
    first, second = shelf([spine_of(busy, 0), spine_of(came_back, 0)])
    assert (first.job, second.job) == (quiet.number, busy.number)
    assert state(first).startswith("came back: 1 · ")
    assert first.due


@pytest.mark.in_a_file
def test_the_demo_says_what_it_is_to_who_takes_a_pc_in(qtbot, on_demo):
    assert on_demo.action("reset_demo").isEnabled()
    on_demo.panels.show_take_in()
    assert "This is the demo" in on_demo.panels.take_in._hint.text()


def test_preferences_hold_at_once_and_where_boots_are_armed(qtbot, on_demo, monkeypatch, tmp_path):
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "config"))
    press(qtbot, on_demo, "Ctrl+,")
    panel = on_demo.panels.preferences
    qtbot.waitUntil(lambda: panel.boots.value() == 3)
    panel.boots.setValue(6)
    panel.look.setValue(0)
    assert panel.look.text() == "never"
    qtbot.keyClick(panel.boots, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: not panel.isVisible())
    assert read_preferences() == Preferences(boots=6, look_minutes=0)
    arming = on_demo.panels.arming
    arming.begin(on_demo.desk.job)
    qtbot.waitUntil(lambda: arming.boots.value() == 6)


def test_what_was_typed_and_left_is_there_still(qtbot, on_demo):
    press(qtbot, on_demo, "Ctrl+D")
    panel = on_demo.panels.write_down
    qtbot.keyClicks(panel.rows[0].what, "a second fan")
    qtbot.keyClick(panel.rows[0].what, Qt.Key.Key_Escape)
    assert not panel.isVisible()
    press(qtbot, on_demo, "Ctrl+D")
    assert panel.rows[0].what.text() == "a second fan"
    panel.pencil_button.click()
    settle(qtbot, on_demo)
    press(qtbot, on_demo, "Ctrl+D")
    assert panel.rows[0].what.text() == "", "it is in the book now"
    card = on_demo.panels.take_in
    press(qtbot, on_demo, "Ctrl+N")
    qtbot.keyClicks(card.owner, "Harbour office")
    qtbot.keyClick(card.owner, Qt.Key.Key_Escape)
    press(qtbot, on_demo, "Ctrl+E")
    assert card.owner.text() == "Gullwing Maritime Museum"
    card.leave()
    press(qtbot, on_demo, "Ctrl+N")
    assert card.owner.text() == "Harbour office"


def test_keys_follow_the_desktops_habits(qtbot, on_demo):
    assert on_demo.windowTitle() == "Ticket-desk PC · Plucky Ledger"
    assert [keys.toString() for keys in on_demo.action("redo").shortcuts()] == [
        "Ctrl+Shift+Z",
        "Ctrl+Y",
    ]
    right = on_demo.right
    for lens, field in (
        ("2", lambda: right.entries.filter.search),
        ("3", lambda: right.load.search),
    ):
        press(qtbot, on_demo, lens)
        press(qtbot, on_demo, "Ctrl+F")
        assert on_demo.focusWidget() is field()
    press(qtbot, on_demo, "2")
    qtbot.waitUntil(lambda: right.entries.ready)
    table = right.entries.table
    table.selectRow(0)
    table.setFocus()
    qtbot.keyClick(table, Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: "Saltmarsh Backup" in QApplication.clipboard().text())
    assert "\t" in QApplication.clipboard().text()
    press(qtbot, on_demo, "Ctrl+J")
    qtbot.waitUntil(on_demo.shelf.isVisible)
    assert on_demo.windowTitle() == "Plucky Ledger"
    press(qtbot, on_demo, "Ctrl+F")
    assert on_demo.focusWidget() is on_demo.shelf.search


def drop(window, *paths):
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
    at, left, none = QPointF(10, 10), Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    event = QDropEvent(at, Qt.DropAction.CopyAction, data, left, none)
    window.dropEvent(event)


def test_recordings_and_ledgers_can_be_dropped(qtbot, on_demo, tmp_path, monkeypatch):
    boots = len(on_demo.desk.job.boots)
    for seed in (41, 42):
        record_to(tmp_path / f"{seed}.jsonl.gz", seed)
    begun = []
    start = lambda _program, arguments: (begun.append(arguments), (True, 1))[1]  # noqa: E731
    monkeypatch.setattr(file_dialogs.QProcess, "startDetached", start)
    drop(on_demo, tmp_path / "41.jsonl.gz", tmp_path / "42.jsonl.gz", tmp_path / "no.txt")
    settle(qtbot, on_demo)
    assert len(on_demo.desk.job.boots) == boots + 2
    drop(on_demo, tmp_path / "other.ledger")
    assert begun == [["-m", "plucky_ledger", "--ledger", str(tmp_path / "other.ledger")]]
    assert "other.ledger opens" in on_demo.message


def test_a_filter_that_hides_everything_says_so(qtbot, on_demo):
    press(qtbot, on_demo, "2")
    lens = on_demo.right.entries
    qtbot.waitUntil(lambda: lens.ready)
    listed = len(lens.model.rows)
    qtbot.keyClicks(lens.filter.search, "zeppelin")
    assert lens.show_all_button.isVisible()
    assert "No entry matches" in lens._note.text()
    lens.show_all_button.click()
    assert len(lens.model.rows) == listed
    assert not lens.show_all_button.isVisible()
    press(qtbot, on_demo, "3")
    load = on_demo.right.load
    qtbot.waitUntil(lambda: bool(load.model.rows))
    qtbot.keyClicks(load.search, "zeppelin")
    assert "zeppelin" in load._about.text()
    assert load._about.isVisible()


def test_the_manual_can_be_searched_and_explains_its_words(qtbot, on_demo):
    press(qtbot, on_demo, "F1")
    manual = on_demo.panels.manual
    press(qtbot, on_demo, "Ctrl+F")
    assert on_demo.focusWidget() is manual.search
    qtbot.keyClicks(manual.search, "struck out")
    places = []
    for _ in range(8):
        qtbot.keyClick(manual.search, Qt.Key.Key_Return)
        assert manual.page.textCursor().selectedText().casefold() == "struck out"
        places.append(manual.page.textCursor().position())
    assert manual.isVisible()
    assert 1 < len(set(places)) < 8, "from the beginning again after the last"
    assert manual.sections.findText("Words") >= 0


def test_tab_stays_on_the_page_in_its_order(qtbot, on_demo):
    press(qtbot, on_demo, "Ctrl+D")
    panel = on_demo.panels.write_down
    panel.add_row()
    first, second = panel.rows
    QApplication.processEvents()
    first.kind.setFocus()
    seen = []
    for _ in range(14):
        seen.append(on_demo.focusWidget())
        qtbot.keyClick(on_demo.focusWidget(), Qt.Key.Key_Tab)
    usable = [field for row in (first, second) for field in row.widgets if field.isEnabled()]
    assert seen[: len(usable)] == usable
    assert first.kind in seen[1:], "and round again"
    assert all(panel.isAncestorOf(widget) for widget in seen)
    qtbot.keyClick(on_demo.focusWidget(), Qt.Key.Key_Backtab)
    assert panel.isAncestorOf(on_demo.focusWidget())


def test_what_came_back_is_switched_off_for_good_where_that_is_said(qtbot, on_demo, tmp_path):
    desk = on_demo.desk
    number = desk.job.number
    press(qtbot, on_demo, "Ctrl+Return")
    confirm(qtbot, on_demo.panels.posting)
    settle(qtbot, on_demo)

    def restart(ledger):
        pc = replace(stand_in_of(read_job(ledger, number)), speed=1e9)
        path = tmp_path / f"{len(read_job(ledger, number).boots)}.jsonl.gz"
        pc.record(path, RECORD_SECONDS, lambda _lines: None, lambda: True)
        return import_recording(ledger, number, path, pc.which)

    for _ in range(2):  # it stays off once
        desk.do(restart)
        settle(qtbot, on_demo)
    (back,) = reappeared_entries(desk.job)
    assert "switch it off for good" in on_demo.book._sentence.text()
    on_demo.book.button.click()
    qtbot.waitUntil(lambda: desk.job.pencilled is not None)
    (change,) = desk.job.pencilled.changes
    assert (change.entry_id, change.new_state) == (back.facts["entry"], EntryState.OFF_FOR_GOOD)
    assert on_demo.right.lens is LensName.ENTRIES
    assert "Post" in on_demo.book.button.text()


def test_a_new_job_opens_on_recording_its_first_boot(qtbot, empty):
    numbers = []
    empty.desk.do(lambda ledger: take_in(ledger, Card("", "Quay PC"), Facts()), numbers.append)
    qtbot.waitUntil(lambda: bool(numbers))
    empty.desk.open_job(numbers[0])
    qtbot.waitUntil(lambda: empty.desk.job is not None)
    panels = empty.panels
    qtbot.waitUntil(lambda: panels.recording.isVisible() or panels.arming.isVisible())
    shown = empty.right.shown
    qtbot.keyClick(shown, Qt.Key.Key_Escape)
    assert empty.right.shown is empty.right.lanes
    press(qtbot, empty, "Ctrl+J")
    qtbot.waitUntil(lambda: empty.desk.job is None)
    empty.desk.open_job(numbers[0])
    qtbot.waitUntil(lambda: empty.desk.job is not None)
    assert empty.right.shown is empty.right.lanes, "left once, it is not pressed on anybody"
