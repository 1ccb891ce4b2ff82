"""Entries and Load in the real window: keys, card, plan, look-up list, brush and profiles."""

import pytest
from PySide6.QtCore import QItemSelectionModel, QPoint, Qt

from plucky_ledger.core.replay.grades import Grade
from plucky_ledger.ui.lenses.registry import LensName
from tests.ui.test_window import press, settle, take_in, time_a_boot


def entries(qtbot, window):
    """The Entries lens, once its costs are there."""
    window.right.show_lens(LensName.ENTRIES)
    lens = window.right.entries
    qtbot.waitUntil(lambda: lens.ready)
    return lens


def select(lens, *names):
    """Select rows by name, the first one with the keyboard on it."""
    lens.table.clearSelection()
    rows = [one.words.name for one in lens.model.rows]
    for name in reversed(names):
        index = lens.model.index(rows.index(name), 0)
        flags = QItemSelectionModel.SelectionFlag
        lens.table.selectionModel().setCurrentIndex(index, flags.Select | flags.Rows)


def decided(lens, name):
    return next(one.words.decision for one in lens.model.rows if one.words.name == name)


def test_single_keys_decide_and_the_plan_follows(qtbot, on_demo):
    lens = entries(qtbot, on_demo)
    select(lens, "Brassrail Till", "TideClock Sync")
    plan = lens._plan.text()
    press(qtbot, on_demo, "O")
    qtbot.waitUntil(lambda: decided(lens, "Brassrail Till") == "switch off")
    assert decided(lens, "TideClock Sync") == "switch off"
    assert {row.entry.name for row in lens.selected} == {"Brassrail Till", "TideClock Sync"}
    assert lens._plan.text() != plan
    assert "3 off, 1 later" in lens._plan.text()
    select(lens, "Brassrail Till")
    for keys, decision in (("L", "start later"), ("?", "look up"), ("K", "keep")):
        press(qtbot, on_demo, keys)
        qtbot.waitUntil(lambda d=decision: decided(lens, "Brassrail Till") == d)
    press(qtbot, on_demo, "Ctrl+Z")
    qtbot.waitUntil(lambda: decided(lens, "Brassrail Till") == "look up")


def test_the_pencilled_line_expects_what_the_plan_says(qtbot, on_demo):
    qtbot.waitUntil(lambda: on_demo.desk.expected is not None)
    assert "predicted" in on_demo.book.model.words[-1].remark
    settled = on_demo.desk.expected.settled
    assert 34 < settled.low < 41.5 < settled.high < 48


def test_a_guarded_entry_asks_for_the_same_key_again(qtbot, on_demo):
    lens = entries(qtbot, on_demo)
    select(lens, "Harbour Guard")
    press(qtbot, on_demo, "O")
    qtbot.waitUntil(lambda: "once more" in on_demo.message)
    assert decided(lens, "Harbour Guard") == "keep"
    press(qtbot, on_demo, "O")
    qtbot.waitUntil(lambda: decided(lens, "Harbour Guard") == "switch off")


def test_the_card_explains_and_takes_the_reason(qtbot, on_demo):
    lens = entries(qtbot, on_demo)
    select(lens, "Lanternprint Agent")
    assert lens.card.title.text() == "Lanternprint Agent"
    assert "On other jobs" in lens.card.text.text()
    press(qtbot, on_demo, "R")
    lens.card.reason.clear()
    qtbot.keyClicks(lens.card.reason, "no labels <b>here</b>")
    qtbot.keyClick(lens.card.reason, Qt.Key.Key_Return)
    settle(qtbot, on_demo)
    qtbot.waitUntil(lambda: lens.current.decided.reason == "no labels <b>here</b>")
    assert lens.current.entry.name == "Lanternprint Agent"


def test_the_list_is_filtered_and_unfolded(qtbot, on_demo):
    lens = entries(qtbot, on_demo)
    whole = len(lens.model.rows)
    lens.fold.toggle()
    assert len(lens.model.rows) == whole + 8
    lens.filter.decided.setCurrentIndex(3)
    assert {one.words.name for one in lens.model.rows} == {"Deckhand Updater", "Foghorn Notify"}
    qtbot.keyClicks(lens.filter.search, "fog")
    assert [one.words.name for one in lens.model.rows] == ["Foghorn Notify"]
    assert lens.table.model().index(0, 0).data(Qt.ItemDataRole.AccessibleTextRole).startswith("Fog")


def test_what_is_found_out_is_written_on_the_look_up_list(qtbot, on_demo):
    press(qtbot, on_demo, "Ctrl+K")
    panel = on_demo.panels.look_up
    qtbot.waitUntil(lambda: len(panel.fields) == 1)
    qtbot.keyClicks(panel.fields[0], "nobody uses it")
    qtbot.keyClick(panel.fields[0], Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: "Finding saved: TideClock Sync" in on_demo.message)
    panel.leave()
    lens = entries(qtbot, on_demo)
    select(lens, "TideClock Sync")
    assert lens.card.finding.text() == "nobody uses it"


def test_entries_of_a_stopwatch_pc_are_typed_in(qtbot, empty):
    take_in(qtbot, empty)
    time_a_boot(qtbot, empty, 75)
    empty.action("type_entries").trigger()
    panel = empty.panels.type_entries
    qtbot.waitUntil(panel.lines.hasFocus)
    panel.lines.setPlainText("Foghorn Notify | /opt/foghorn/notify\nDeckhand Updater")
    qtbot.mouseClick(panel.keep_button, Qt.MouseButton.LeftButton)
    settle(qtbot, empty)
    lens = entries(qtbot, empty)
    qtbot.waitUntil(lambda: len(lens.model.rows) == 2)
    select(lens, "Foghorn Notify")
    assert "timed by hand" in lens.card.text.text()
    press(qtbot, empty, "O")
    qtbot.waitUntil(lambda: decided(lens, "Foghorn Notify") == "switch off")


def test_grades_follow_the_workshops_thresholds(qtbot, on_demo):
    lens = entries(qtbot, on_demo)
    on_demo.panels.show_grades()
    panel = on_demo.panels.grades
    qtbot.waitUntil(lambda: panel.fields[Grade.HEAVY].value() == 5.0)
    panel.fields[Grade.HEAVY].setValue(1.0)
    qtbot.mouseClick(panel.keep_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "has to begin above" in on_demo.message)
    panel.fields[Grade.HEAVY].setValue(60.0)
    panel.fields[Grade.MODERATE].setValue(50.0)
    qtbot.mouseClick(panel.keep_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "heavy from 60 %" in lens._legend.text())


def test_the_load_is_brushed_set_aside_and_counted_against_a_profile(qtbot, on_demo):
    on_demo.right.show_lens(LensName.LOAD)
    lens = on_demo.right.load
    qtbot.waitUntil(lambda: lens.model.rowCount() > 0)
    here, there = (QPoint(lens.brush.width() * part // 4, 20) for part in (2, 3))
    qtbot.mousePress(lens.brush, Qt.MouseButton.LeftButton, pos=here)
    qtbot.mouseMove(lens.brush, there)
    qtbot.mouseRelease(lens.brush, Qt.MouseButton.LeftButton, pos=there)
    qtbot.waitUntil(lambda: 40 < lens.brush.span[0] < lens.brush.span[1] < 110)
    assert all(not button.isChecked() for button in lens._spans.buttons())
    lens._bys.buttons()[1].click()
    qtbot.waitUntil(lambda: any(one.words.name == "Brassrail Till" for one in lens.model.rows))
    lens._bys.buttons()[0].click()
    qtbot.waitUntil(lambda: any(one.words.name == "brassrail-till" for one in lens.model.rows))
    names = [lens.table.model().index(row, 0).data() for row in range(lens.model.rowCount())]
    lens.table.selectRow(names.index("gullwatch-indexer"))
    qtbot.mouseClick(lens.aside_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "Say why" in on_demo.message)
    qtbot.keyClicks(lens.text, "only while we looked")
    qtbot.keyClick(lens.text, Qt.Key.Key_Return)
    qtbot.waitUntil(
        lambda: any("only while we looked" in one.words.remark for one in lens.model.rows)
    )
    settle(qtbot, on_demo)
    qtbot.keyClicks(lens.text, "fresh")
    qtbot.mouseClick(lens.save_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "as “fresh”" in lens._stock.text())
    assert lens._stock.text().startswith("As many processes")


def test_the_span_is_moved_with_the_keyboard(qtbot, on_demo):
    on_demo.right.show_lens(LensName.LOAD)
    brush = on_demo.right.load.brush
    qtbot.waitUntil(lambda: brush.span[1] > 60)
    start, end = brush.span
    brush.setFocus()
    qtbot.keyClick(brush, Qt.Key.Key_Right)
    qtbot.waitUntil(lambda: brush.span == (start + 1, end + 1))
    qtbot.keyClick(brush, Qt.Key.Key_Left, Qt.KeyboardModifier.ShiftModifier)
    qtbot.waitUntil(lambda: brush.span == (start + 1, end))
    qtbot.keyClick(brush, Qt.Key.Key_Up)
    assert brush.span == (start + 1, end)


def test_the_models_of_entries_keep_qts_rules(qtbot, on_demo, qtmodeltester):
    qtmodeltester.check(entries(qtbot, on_demo).model)


@pytest.mark.in_a_file
def test_a_ledger_that_is_only_looked_at_decides_nothing(qtbot, on_demo, opened, demo_path):
    second = opened(demo_path)
    qtbot.waitUntil(lambda: second.desk.job is not None)
    lens = entries(qtbot, second)
    assert lens.model.rows
    assert not second.action("decide_off").isEnabled()
    assert not lens.post_button.isEnabled()
