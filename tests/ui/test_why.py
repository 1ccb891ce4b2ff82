"""The Why lens: why it is still slow, and advice that becomes a change in the book."""

from dataclasses import replace

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QApplication, QPushButton

from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.job.advised import RuleCode
from plucky_ledger.core.job.changes import ChangeKind
from plucky_ledger.core.trend.trend import Beside
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.ui.actions import Place
from plucky_ledger.ui.drawing.evidence import EvidencePicture
from plucky_ledger.ui.drawing.trend import TrendPicture
from plucky_ledger.ui.lenses import why_advice
from plucky_ledger.ui.lenses.registry import LensName
from plucky_ledger.ui.lenses.why_room import HeapBar
from plucky_ledger.ui.text import Marked
from plucky_ledger.usecases.changing.decisions import decisions_in
from tests.helpers.faulty import recorded_job
from tests.made_up_pcs.faults import Fault, pc_with
from tests.ui.test_window import press, settle


def why(qtbot, window):
    """The lens, once its findings are there."""
    press(qtbot, window, "5")
    assert window.right.lens is LensName.WHY
    advice = window.right.why.advice
    qtbot.waitUntil(lambda: advice.page is not None)
    return advice


def said(lens):
    return " ".join(text.text() for text in lens.widget().findChildren(Marked))


def test_advice_is_pencilled_and_undone(qtbot, on_demo):
    lens = why(qtbot, on_demo)
    assert "Waiting for the disk" in said(lens)
    (button,) = lens.pencil_buttons.values()
    button.setFocus()
    qtbot.keyClick(button, Qt.Key.Key_Space)
    settle(qtbot, on_demo)
    kinds = [change.kind for change in on_demo.desk.job.pencilled.changes]
    assert kinds[-1] is ChangeKind.SOLID_STATE_DRIVE
    qtbot.waitUntil(lambda: lens.page is not None and not lens.pencil_buttons)
    press(qtbot, on_demo, "Ctrl+Z")
    settle(qtbot, on_demo)
    qtbot.waitUntil(lambda: lens.page is not None and len(lens.pencil_buttons) == 1)


def test_the_drives_themselves_are_asked_and_that_is_undone(qtbot, on_demo):
    lens = why(qtbot, on_demo)
    assert "h in its life" not in said(lens)
    qtbot.mouseClick(lens.ask_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "h in its life" in said(lens))
    assert "reports no fault" in said(lens)
    assert "no check is due" in said(lens)
    press(qtbot, on_demo, "Ctrl+Z")
    qtbot.waitUntil(lambda: "h in its life" not in said(lens))


def test_what_cannot_be_worked_out_is_said_and_tried_again(qtbot, on_demo, monkeypatch):
    def refused(*_asked):
        raise Refused(TroubleCode.NO_SUCH_BOOT, line=0, boot=1, boots=0)

    monkeypatch.setattr(why_advice, "why", refused)
    press(qtbot, on_demo, "5")
    lens = on_demo.right.why.advice
    qtbot.waitUntil(lambda: bool(on_demo.message))
    assert "Your boots are kept" in lens.widget().text()
    monkeypatch.undo()
    press(qtbot, on_demo, "1")
    assert why(qtbot, on_demo).page.findings


def test_an_entry_is_decided_about_and_a_guarded_one_only_the_second_time(qtbot, opened, tmp_path):
    pc = pc_with(Fault.WAITS_FOR_NOTHING)
    firewall = replace(pc.entries[-1], name="Tide Firewall")  # guarded by its name
    path = tmp_path / "workshop.ledger"
    with Ledger(path) as ledger:
        recorded_job(ledger, replace(pc, entries=(*pc.entries[:-1], firewall)), tmp_path)
    window = opened(path)
    qtbot.waitUntil(lambda: window.desk.job is not None)
    window.activateWindow()
    qtbot.waitUntil(lambda: QApplication.activeWindow() is window)
    lens = why(qtbot, window)
    (button,) = lens.pencil_buttons.values()
    button.setFocus()
    qtbot.keyClick(button, Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: "once more" in window.message)
    assert window.desk.job.pencilled is None
    qtbot.keyClick(button, Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: lens.page is not None and not lens.pencil_buttons)
    (change,) = window.desk.job.pencilled.changes
    assert (change.entry_id, change.new_state) == (firewall.entry_id, EntryState.OFF)
    with Ledger(path) as ledger:
        assert decisions_in(ledger, window.desk.job.number)[firewall.entry_id].reason
    (box,) = lens.statement_boxes.values()
    assert QApplication.focusWidget() is box


def test_the_chosen_finding_has_its_menu_its_key_and_what_it_rests_on(qtbot, opened, tmp_path):
    """Everything that is done by its buttons; the finding is chosen by a press on its words."""
    pc = replace(pc_with(Fault.MANY_FAILURES), condition=pc_with(Fault.HOT).condition)
    with Ledger(tmp_path / "two.ledger") as ledger:
        recorded_job(ledger, pc, tmp_path)
    window = opened(tmp_path / "two.ledger")
    qtbot.waitUntil(lambda: window.desk.job is not None)
    lens = why(qtbot, window)
    rules = [finding.rule for finding in lens.page.findings]
    assert set(rules) == {RuleCode.HEAT, RuleCode.MANY_FAILED}
    assert lens.chosen.rule is rules[0]
    _, (words, *_) = lens._rows["many_failed"]
    qtbot.mouseClick(words, Qt.MouseButton.RightButton)
    assert lens.chosen.rule is RuleCode.MANY_FAILED
    names = [
        action.text() for action in window.actions_made.context_menu(Place.WHY, window).actions()
    ]
    assert "Pencil this advice" in names
    window.action("advice_to_owner").trigger()
    settle(qtbot, window)
    assert [one.rule for one in window.desk.job.advised] == [RuleCode.MANY_FAILED]
    qtbot.waitUntil(lambda: lens.page is not None)
    assert lens.chosen.rule is RuleCode.MANY_FAILED  # shown anew, it is still the chosen one
    press(qtbot, window, "F2")
    assert "4 entries failed to start" in window.panels.basis.words.text()
    window.panels.basis.leave()
    qtbot.waitUntil(lambda: lens.page is not None)
    _, (words, *_) = lens._rows["heat"]
    qtbot.mouseClick(words, Qt.MouseButton.LeftButton)
    press(qtbot, window, "P")
    settle(qtbot, window)
    assert window.desk.job.pencilled.changes[0].what == "Fans and vents cleaned"
    qtbot.waitUntil(lambda: lens.page is not None)
    _, (words, *_) = lens._rows["many_failed"]
    qtbot.mouseClick(words, Qt.MouseButton.LeftButton)
    window.action("advice_to_entry").trigger()
    assert window.right.lens is LensName.ENTRIES


def test_what_is_ticked_is_on_the_statement(qtbot, on_demo):
    lens = why(qtbot, on_demo)
    (box,) = lens.statement_boxes.values()
    box.setFocus()
    qtbot.keyClick(box, Qt.Key.Key_Space)
    settle(qtbot, on_demo)
    qtbot.waitUntil(lambda: lens.page is not None)
    (box,) = lens.statement_boxes.values()
    assert box.isChecked()
    press(qtbot, on_demo, "6")
    preview = on_demo.right.statement.preview
    qtbot.waitUntil(lambda: "What is advised" in preview.toPlainText())
    spines = on_demo.shelf.model
    told = [spines.data(spines.index(row, 0)) for row in range(spines.rowCount())]
    assert ["needs a part" in text for text in told].count(True) == 1


@pytest.mark.parametrize(
    "fault", [Fault.NONE, Fault.FAILING_DRIVE, Fault.SHORT_OF_MEMORY, Fault.WAITS_FOR_NOTHING]
)
def test_each_kind_of_evidence_is_drawn(qtbot, opened, tmp_path, fault):
    path = tmp_path / "workshop.ledger"
    with Ledger(path) as ledger:
        recorded_job(ledger, pc_with(fault), tmp_path)
    window = opened(path)
    qtbot.waitUntil(lambda: window.desk.job is not None)
    lens = why(qtbot, window)
    pictures = lens.widget().findChildren(EvidencePicture)
    assert len(pictures) == len(lens.page.findings) == (fault is not Fault.NONE)
    for picture in pictures:
        image = picture.grab().toImage().convertToFormat(QImage.Format.Format_RGB32)
        seen = {image.pixel(x, y) for x in range(image.width()) for y in range(image.height())}
        assert len(seen) > 3
        assert picture.accessibleName()
    if fault is Fault.NONE:
        assert "is fine" in said(lens)
    if fault is Fault.WAITS_FOR_NOTHING:
        (way,) = [
            b for b in lens.widget().findChildren(QPushButton) if b.text() == "Show the entry"
        ]
        qtbot.mouseClick(way, Qt.MouseButton.LeftButton)
        entries = window.right.entries
        assert window.right.shown is entries
        qtbot.waitUntil(lambda: entries.ready)
        assert entries.current.entry.entry_id == "tide-gauge-link.service"


def test_since_when_shows_the_steps_in_the_measure_of_the_book(qtbot, on_demo):
    why(qtbot, on_demo)
    lens = on_demo.right.why
    qtbot.mouseClick(lens.buttons.button(1), Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: lens.trend.trend is not None)
    assert "Quicker by" in said(lens.trend)
    assert "Posted here: Saltmarsh Backup starts later" in said(lens.trend)
    (picture,) = lens.trend.widget().findChildren(TrendPicture)
    assert picture.grab().toImage().width() > 400
    entries = [point.value for point in lens.trend.trend.beside[Beside.ENTRIES]]
    assert max(entries) > min(entries) > 5  # what was switched off is none
    memory = lens.trend.trend.beside[Beside.MEMORY]
    assert len(memory) > 10
    assert picture.height() > 300
    press(qtbot, on_demo, "F2")
    assert "boots," in on_demo.panels.basis.words.text()
    on_demo.panels.basis.leave()
    on_demo.desk.keep_book_in(Measure.MEMORY_HELD)
    qtbot.waitUntil(
        lambda: lens.trend.trend is not None and lens.trend.trend.measure is Measure.MEMORY_HELD
    )
    assert "MB less since" in said(lens.trend)
    assert set(lens.trend.trend.beside) == {Beside.ENTRIES}


def test_the_room_is_looked_at_on_demand_and_a_heap_is_pencilled(qtbot, on_demo):
    why(qtbot, on_demo)
    room = on_demo.right.why.room
    qtbot.mouseClick(on_demo.right.why.buttons.button(2), Qt.MouseButton.LeftButton)
    assert room.survey is None
    qtbot.mouseClick(room.look_button, Qt.MouseButton.LeftButton)
    assert room.look_button.text() == "Stop"
    qtbot.waitUntil(lambda: room.survey is not None)
    heaps = room.findChildren(HeapBar)
    assert len(heaps) == len(room.survey.heaps) > 5
    named = {button.accessibleName(): button for button in room.findChildren(QPushButton)}
    bin_button = next(button for name, button in named.items() if "The bin" in name)
    qtbot.mouseClick(bin_button, Qt.MouseButton.LeftButton)
    settle(qtbot, on_demo)
    change = on_demo.desk.job.pencilled.changes[-1]
    assert (change.kind, change.before) == (ChangeKind.DISK_SPACE, "61.0 GB")
    assert "system" not in " ".join(named)
    qtbot.mouseClick(room.look_button, Qt.MouseButton.LeftButton)
    qtbot.mouseClick(room.look_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: room.look_button.text() != "Stop")
    assert not room.survey.whole
