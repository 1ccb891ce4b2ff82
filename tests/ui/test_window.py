"""The real window, from an empty shelf to a statement."""

import sqlite3
import sys
import time
from functools import partial
from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtWidgets import QAbstractButton, QApplication, QComboBox, QLabel, QLineEdit

from plucky_ledger.core.boots.marks import PERSON_MARKS, Mark
from plucky_ledger.core.boots.stages import StageKind
from plucky_ledger.core.job.job import state_of
from plucky_ledger.core.job.postings import PostingState
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.pages.shelf import ShelfOrder
from plucky_ledger.standin.simulated_pc import SimulatedPc
from plucky_ledger.ui.app import open_window
from plucky_ledger.ui.lenses.registry import LensName
from plucky_ledger.ui.theme import DARK, LIGHT
from plucky_ledger.usecases.jobs.jobs import find_job, read_job
from plucky_ledger.usecases.jobs.logs import start_logging, stop_logging
from plucky_ledger.wording.book import closing, next_sentence
from plucky_ledger.wording.effects import headline
from plucky_ledger.wording.verdict import answer
from tests.helpers.older_figures import of_an_older_method
from tests.helpers.standin import record_to
from tests.ui.conftest import confirm


def settle(qtbot, window):
    """Until every step is written, the chosen boot is read and the views show it."""
    desk = window.desk
    QApplication.processEvents()
    qtbot.waitUntil(
        lambda: desk.busy == 0 and (desk.boot is None or desk.analysis(desk.boot) is not None)
    )
    QApplication.processEvents()


def press(qtbot, window, keys: str):
    """A shortcut, sent to whatever has the keyboard."""
    action = next(a for a in window.actions_made.made.values() if a.shortcut().toString() == keys)
    assert action.isEnabled(), keys
    action.trigger()


def take_in(qtbot, window, title="Bench PC"):
    qtbot.mouseClick(window.shelf.take_in_button, Qt.MouseButton.LeftButton)
    qtbot.keyClicks(window.panels.take_in.title, title)
    qtbot.mouseClick(window.panels.take_in.read_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: window.panels.take_in.kernel.text() != "")
    qtbot.mouseClick(window.panels.take_in.keep_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: window.desk.job is not None and window.desk.busy == 0)


def time_a_boot(qtbot, window, ready: float):
    """The stopwatch with its keys, then marks as if time had passed."""
    press(qtbot, window, "Ctrl+T")
    watch = window.panels.stopwatch
    for _ in range(6):
        qtbot.keyClick(watch, Qt.Key.Key_Space)
    assert watch.watch.next_mark is None
    qtbot.keyClick(watch, Qt.Key.Key_Backspace)
    assert watch.watch.next_mark is Mark.READY
    qtbot.keyClick(watch, Qt.Key.Key_Space)
    for mark, seconds in zip(PERSON_MARKS, (0, 20, 28, 40, ready), strict=True):
        watch.form.fields[mark].setText(str(seconds))
    qtbot.mouseClick(watch.keep_button, Qt.MouseButton.LeftButton)
    settle(qtbot, window)


def test_an_empty_ledger_says_what_to_do_first(empty):
    texts = [label.text() for label in empty.shelf.findChildren(QLabel)]
    assert any("Take in a PC" in text and "Record its first boot" in text for text in texts)
    assert empty.shelf.isVisible()
    assert not empty.action("record").isEnabled()


def test_from_empty_shelf_to_the_first_recorded_boot(qtbot, empty):
    """Take in this PC and record it for real through the recorder process."""
    take_in(qtbot, empty)
    facts = empty.desk.job.facts
    assert facts.cores
    assert facts.kernel == Path("/proc/sys/kernel/osrelease").read_text().strip()
    qtbot.mouseClick(empty.book.button, Qt.MouseButton.LeftButton)
    qtbot.mouseClick(empty.panels.arming.at_rest_button, Qt.MouseButton.LeftButton)
    panel = empty.panels.recording
    panel.seconds.setValue(3)
    qtbot.mouseClick(panel.start_button, Qt.MouseButton.LeftButton)
    assert empty.record_button.text() == "◉ Recording…"
    qtbot.waitUntil(lambda: bool(panel._live.strips))
    qtbot.waitUntil(lambda: empty.desk.job.opening_boots != ())
    settle(qtbot, empty)
    assert Mark.KERNEL_STARTED in empty.desk.boot.marks
    assert len(empty.right.lanes.canvas.page.strips) == 4
    assert not any(empty.desk.workshop.place.recordings.iterdir())


def test_a_recording_can_be_stopped_and_discarded(qtbot, empty):
    take_in(qtbot, empty)
    press(qtbot, empty, "Ctrl+R")
    qtbot.mouseClick(empty.panels.recording.start_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: empty.panels.recording._live.since_start is not None)
    qtbot.mouseClick(empty.panels.recording.discard_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: not empty.panels.recording.running)
    settle(qtbot, empty)
    assert empty.desk.job.opening_boots == ()
    assert not any(empty.desk.workshop.place.recordings.iterdir())


def test_a_pc_timed_by_hand_from_opening_to_verdict(qtbot, empty):
    """Steps four to six: stopwatch, typed changes, verdict, set aside, bring back, undo."""
    take_in(qtbot, empty)
    for ready in (55.0, 55.5, 54.5):
        time_a_boot(qtbot, empty, ready)
    assert closing(empty.book.model.page) == "47.0 s"
    press(qtbot, empty, "Ctrl+D")
    line, *_ = empty.panels.write_down.rows
    assert not line.before.isEnabled()
    line.kind.setCurrentText("more memory")
    assert line.before.isEnabled()
    line.before.setText("4.1 GB")
    qtbot.keyClicks(line.what, "two modules")
    qtbot.keyClicks(line.after, "8.2 GB")
    qtbot.keyClicks(line.why, "it swaps at rest")
    qtbot.mouseClick(empty.panels.write_down.post_button, Qt.MouseButton.LeftButton)
    settle(qtbot, empty)
    (posting,) = empty.desk.job.postings
    assert state_of(empty.desk.job, posting) is PostingState.POSTED
    assert empty.book.model.words[1].particulars == "two modules (4.1 GB → 8.2 GB)"
    assert "restart" in next_sentence(empty.book.model.page).lower()
    for ready in (45.0, 45.4, 44.6):
        time_a_boot(qtbot, empty, ready)
    page, rows = empty.book.model.page, empty.book.model.words
    assert (rows[1].saved, closing(page)) == ("10.0", "37.0 s")
    empty.right.show_lens(LensName.VERDICT)
    qtbot.waitUntil(lambda: empty.right.verdict.page is not None)
    assert answer(empty.right.verdict.page).sentence == "The PC is ready 10.0 s sooner."
    press(qtbot, empty, "Ctrl+B")
    qtbot.keyClicks(empty.panels.aside.reason, "somebody was at the door")
    qtbot.keyClick(empty.panels.aside.reason, Qt.Key.Key_Return)
    settle(qtbot, empty)
    assert "1 set aside" in empty.book.model.words[1].remark
    press(qtbot, empty, "Ctrl+Shift+B")
    settle(qtbot, empty)
    assert "set aside" not in empty.book.model.words[1].remark
    for _ in range(2):
        press(qtbot, empty, "Ctrl+Z")
        settle(qtbot, empty)
    assert len(empty.desk.job.postings[0].boots) == 3
    press(qtbot, empty, "Ctrl+Z")
    settle(qtbot, empty)
    assert len(empty.desk.job.postings[0].boots) == 2
    press(qtbot, empty, "Ctrl+Shift+Z")
    settle(qtbot, empty)
    assert len(empty.desk.job.postings[0].boots) == 3


def test_what_cannot_be_is_refused_beside_the_field(qtbot, empty):
    take_in(qtbot, empty)
    press(qtbot, empty, "Ctrl+Shift+I")
    empty.panels.typed.fields[Measure.READY].setText("soon")
    qtbot.mouseClick(empty.panels.typed.keep_button, Qt.MouseButton.LeftButton)
    assert "“soon” is not a figure" in empty.panels.typed.trouble.text()
    empty.panels.typed.fields[Measure.READY].setText("61,5")
    qtbot.mouseClick(empty.panels.typed.keep_button, Qt.MouseButton.LeftButton)
    assert "“61,5” is not a figure" in empty.panels.typed.trouble.text()
    empty.panels.typed.fields[Measure.READY].setText("61.5")
    qtbot.mouseClick(empty.panels.typed.keep_button, Qt.MouseButton.LeftButton)
    settle(qtbot, empty)
    assert empty.desk.boot.readings[Measure.READY].value == 61.5
    for lens in LensName:
        empty.right.show_lens(lens)
        assert empty.right.grab().width() > 0


def test_marks_are_corrected_afterwards(qtbot, empty):
    take_in(qtbot, empty)
    time_a_boot(qtbot, empty, 55.0)
    press(qtbot, empty, "Ctrl+M")
    empty.panels.correct.form.fields[Mark.READY].setText("50")
    qtbot.mouseClick(empty.panels.correct.keep_button, Qt.MouseButton.LeftButton)
    settle(qtbot, empty)
    assert empty.desk.boot.readings[Measure.READY].value == 42.0


def test_the_demo_opens_on_its_book(on_demo):
    page = on_demo.book.model.page
    assert on_demo._title.text() == "Ticket-desk PC"
    assert "job 0417" in on_demo._subtitle.text()
    saved = [bool(row.saved) for row in on_demo.book.model.words]
    assert saved == [False, True, True, False, False, False, False]
    assert "as after “Fast-start hibernation off”" in on_demo.book.model.words[5].remark
    assert next_sentence(page) == "Post the 2 pencilled changes, then restart."
    lanes = on_demo.right.lanes.canvas.page
    assert {"Lanternprint Agent", "Harbour Guard"} <= {lane.name for lane in lanes.lanes}
    assert [stage.kind for stage in lanes.stages].count(StageKind.SIGN_IN_WAIT) == 1


def test_every_line_answers_in_every_lens_and_measure(qtbot, on_demo):
    """Reading down the book never leaves a lens behind, empty or raising."""
    on_demo.right.show_lens(LensName.VERDICT)
    for measure in Measure:
        on_demo.desk.keep_book_in(measure)
        for line in range(on_demo.book.model.rowCount()):
            on_demo.book.lines.setCurrentIndex(on_demo.book.model.index(line))
            settle(qtbot, on_demo)
            qtbot.waitUntil(lambda: on_demo.right.verdict.page is not None)
            verdict = on_demo.right.verdict.page
            assert answer(verdict).sentence
            assert verdict.rows or line == 6
    for lens in LensName:
        on_demo.right.show_lens(lens)
        image = on_demo.right.shown.grab().toImage()
        colours = {
            image.pixel(x, y)
            for x in range(0, image.width(), 9)
            for y in range(0, image.height(), 7)
        }
        assert len(colours) > 8, lens


def test_lanes_zoom_at_the_pointer_pan_and_fit(qtbot, on_demo):
    canvas = on_demo.right.lanes.canvas
    whole = canvas.view
    viewport = canvas.viewport()
    at = QPointF(canvas.sheet.axis.place(40.0), 300.0)
    wheel = QWheelEvent(
        at,
        viewport.mapToGlobal(at),
        QPoint(),
        QPoint(0, 120),
        Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.NoModifier,
        Qt.ScrollPhase.NoScrollPhase,
        False,
    )
    QApplication.sendEvent(viewport, wheel)
    assert canvas.view[1] - canvas.view[0] < whole[1] - whole[0]
    assert abs(canvas.sheet.axis.place(40.0) - at.x()) < 0.5
    closer = canvas.view
    qtbot.keyClick(canvas, Qt.Key.Key_Right)
    assert canvas.view[0] > closer[0]
    qtbot.mouseMove(viewport, QPoint(int(at.x()), 300))
    assert len(canvas.crosshair_readings) == 4
    qtbot.mouseDClick(viewport, Qt.MouseButton.LeftButton, pos=QPoint(int(at.x()), 300))
    assert canvas.view == whole


def test_another_boot_can_be_laid_behind(qtbot, on_demo):
    chooser = on_demo.right.head.chooser
    last = on_demo.desk.job.rounds[5][0]
    offered = [chooser.behind.itemData(at) for at in range(chooser.behind.count())]
    index = next(at for at, boot in enumerate(offered) if boot and boot.number == last.number)
    chooser.behind.setCurrentIndex(index)
    chooser.behind.activated.emit(index)
    qtbot.waitUntil(lambda: on_demo.right.lanes.canvas._behind is not None)
    assert on_demo.right.lanes.canvas._behind.page.lanes


def test_what_is_pencilled_lies_over_the_boot_as_it_is_expected(qtbot, on_demo):
    """Over boots of the state the PC is in, with a pencilled flag; gone once it is rubbed out."""
    canvas = on_demo.right.lanes.canvas
    assert canvas._behind is None  # the opening is no longer how the PC is
    on_demo.desk.select_line(5)
    qtbot.waitUntil(lambda: canvas._behind is not None)
    before, expected = (
        next(flag.seconds for flag in page.flags if flag.mark is Mark.SETTLED)
        for page in (canvas.page, canvas._behind.page)
    )
    assert 5 < before - expected < 20
    assert "In pencil" in on_demo.right.lanes.words.text()
    press(qtbot, on_demo, "Ctrl+Backspace")
    qtbot.waitUntil(lambda: canvas._behind is None)


def test_the_demo_can_be_played_on(qtbot, on_demo, monkeypatch):
    """Post the pencilled changes, restart the stand-in PC from the window, read the saving."""
    quick = partial(SimulatedPc, speed=400.0)
    monkeypatch.setattr("plucky_ledger.usecases.recording.stand_ins.SimulatedPc", quick)
    qtbot.mouseClick(on_demo.book.button, Qt.MouseButton.LeftButton)
    confirm(qtbot, on_demo.panels.posting)
    settle(qtbot, on_demo)
    assert "restart" in on_demo.message
    qtbot.mouseClick(on_demo.book.button, Qt.MouseButton.LeftButton)
    qtbot.mouseClick(on_demo.panels.recording.start_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: on_demo.desk.job.postings[-1].boots != ())
    settle(qtbot, on_demo)
    row = on_demo.book.model.words[-1]
    assert float(row.saved) > 8
    assert "unproven" in row.remark  # one boot is never stamped


def test_boots_are_taken_in_turns_and_which_change_did_it_is_told(qtbot, on_demo):
    """From the line of the swap file; then the next restart worth making is pencilled."""
    press(qtbot, on_demo, "Ctrl+Backspace")
    settle(qtbot, on_demo)
    on_demo.right.show_lens(LensName.VERDICT)
    on_demo.desk.select_line(4)
    on_demo.desk.keep_book_in(Measure.SYSTEM_UP)  # unproven there: the lens offers what decides
    settle(qtbot, on_demo)
    qtbot.waitUntil(lambda: on_demo.right.verdict.page is not None)
    on_demo.right.verdict.decide_button.click()
    qtbot.waitUntil(lambda: on_demo.desk.job.turns is not None)
    on_demo.desk.keep_book_in(Measure.SETTLED)
    assert next_sentence(on_demo.book.model.page) == "Boots in turns: 4 are left."
    boots = len(on_demo.desk.job.boots)
    qtbot.mouseClick(on_demo.book.button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "All boots are taken" in on_demo.message)
    settle(qtbot, on_demo)
    assert len(on_demo.desk.job.boots) == boots + 4
    assert "as after “Swap file doubled”" in on_demo.book.model.words[6].remark
    lens = on_demo.right.verdict
    press(qtbot, on_demo, "4")
    lens.which_button.click()
    qtbot.waitUntil(lambda: lens.which.page is not None)
    page = lens.which.page
    assert headline(page) == "3 of 8 changes measured separately"
    assert page.brackets == ((0, 4),)
    texts = [label.text() for label in lens.which.findChildren(QLabel)]
    assert any("10 boots without" in text or "put back · 5 boots with it" in text for text in texts)
    qtbot.waitUntil(lambda: bool(lens.which._costs))
    texts = [label.text() for label in lens.which.findChildren(QLabel)]
    assert any("Saltmarsh Backup" in text and "predicted −" in text for text in texts)
    lens.which.next_button.click()
    settle(qtbot, on_demo)
    assert on_demo.desk.job.pencilled.changes == page.next_changes


def test_recordings_are_imported_and_bad_ones_told(qtbot, on_demo, tmp_path):
    bad = tmp_path / "bad.jsonl"
    bad.write_text("nonsense\n")
    good = tmp_path / "good.jsonl.gz"
    record_to(good, seed=99)
    boots = sum(len(round_) for round_ in on_demo.desk.job.rounds)
    on_demo.files.import_recordings([bad])
    settle(qtbot, on_demo)
    assert "bad.jsonl was not imported. Line 1" in on_demo.message
    on_demo.files.import_recordings([good, good])
    settle(qtbot, on_demo)
    assert sum(len(round_) for round_ in on_demo.desk.job.rounds) == boots + 1
    assert "already" in on_demo.message


def test_the_statement_is_previewed_and_saved(qtbot, on_demo, tmp_path):
    on_demo.right.show_lens(LensName.STATEMENT)
    lens = on_demo.right.statement
    qtbot.waitUntil(lambda: "The PC settles" in lens.preview.toPlainText())
    for name in ("s.html", "s.pdf"):
        lens.save(tmp_path / name)
        # There it is before it is synced, and only then told.
        qtbot.waitUntil(lambda name=name: name in on_demo.message)
        assert (tmp_path / name).exists()
    lens.save(tmp_path / "missing" / "s.html")
    qtbot.waitUntil(lambda: "Choose another folder" in on_demo.message)


def test_the_shelf_finds_jobs_and_tells_those_that_are_due(qtbot, on_demo):
    press(qtbot, on_demo, "Ctrl+Return")
    confirm(qtbot, on_demo.panels.posting)
    settle(qtbot, on_demo)
    press(qtbot, on_demo, "Ctrl+J")
    shelf = on_demo.shelf
    qtbot.waitUntil(shelf.isVisible)
    qtbot.waitUntil(lambda: shelf.model.rowCount() == 2)
    assert "restart due · 1 to look up" in shelf.model.data(shelf.model.index(0))
    shelf.order.setCurrentIndex(shelf.order.findData(ShelfOrder.PC))
    shown = [shelf.model.data(shelf.model.index(row)) for row in range(2)]
    assert shown == sorted(shown, key=lambda text: text[5:])
    assert all("last visit" in text for text in shown)
    # Both are one owner's: one heading above the first of them.
    shelf.order.setCurrentIndex(shelf.order.findData(ShelfOrder.OWNER))
    first, second = (shelf.spines.visualRect(shelf.spines.model().index(row, 0)) for row in (0, 1))
    assert first.height() > second.height()
    clicked = []
    shelf.spines.clicked.connect(clicked.append)
    heading = first.topLeft() + QPoint(20, 6)
    qtbot.mouseClick(shelf.spines.viewport(), Qt.MouseButton.LeftButton, pos=heading)
    assert clicked == []
    shelf.order.setCurrentIndex(shelf.order.findData(ShelfOrder.PC))
    assert shelf.spines.visualRect(shelf.spines.model().index(0, 0)).height() == second.height()
    qtbot.keyClicks(shelf.search, "ticket")
    assert shelf.spines.model().rowCount() == 1
    qtbot.keyClicks(shelf.search, "zzz")
    assert shelf.spines.model().rowCount() == 0
    shelf.search.clear()
    at = shelf.spines.visualRect(shelf.spines.model().index(0, 0)).center()
    qtbot.mouseClick(shelf.spines.viewport(), Qt.MouseButton.LeftButton, pos=at)
    assert len(clicked) == 1
    qtbot.waitUntil(lambda: on_demo.desk.job is not None)


@pytest.mark.in_a_file
def test_a_second_window_only_looks(qtbot, on_demo, opened, demo_path):
    second = opened(demo_path)
    qtbot.waitUntil(lambda: second.desk.job is not None)
    assert "another window" in second.message
    assert not second.record_button.isEnabled()
    assert not second.action("write_down").isEnabled()


def test_item_models_keep_qts_rules(on_demo, qtmodeltester):
    for model in (on_demo.book.model, on_demo.shelf.model, on_demo.right.load.model):
        qtmodeltester.check(model)


def test_every_control_has_a_name_and_every_key_is_its_own(on_demo):
    made = on_demo.actions_made.made.values()
    used = [keys.toString() for action in made for keys in action.shortcuts()]
    assert len(used) == len(set(used))
    for kind in (QAbstractButton, QComboBox, QLineEdit):
        for widget in on_demo.findChildren(kind):
            if type(widget).__module__.startswith("PySide6") and widget.objectName() != (
                "qt_spinbox_lineedit"
            ):
                named = widget.accessibleName() or getattr(widget, "text", lambda: "")()
                placeholder = getattr(widget, "placeholderText", lambda: "")()
                assert named or placeholder or not widget.isVisible(), widget


def test_f6_moves_between_the_pages(on_demo):
    on_demo.activateWindow()
    on_demo.book.lines.setFocus()
    on_demo.ways.other_page()
    assert on_demo.right.isAncestorOf(on_demo.focusWidget())
    on_demo.ways.other_page()
    assert on_demo.focusWidget() is on_demo.book.lines


@pytest.mark.parametrize("colours", [LIGHT, DARK])
def test_text_stands_out_from_its_ground(colours):
    """At least 4.5 to 1, on paper, page and selection."""

    def luminance(name):
        parts = [
            c / 12.92 if c <= 0.03928 else ((c + 0.055) / 1.055) ** 2.4
            for c in colours.of(name).getRgbF()[:3]
        ]
        return 0.2126 * parts[0] + 0.7152 * parts[1] + 0.0722 * parts[2]

    for text in ("ink", "saved", "lost", "pencil"):
        for ground in ("paper", "page") if text == "pencil" else ("paper", "page", "wash"):
            light, dark = sorted((luminance(text), luminance(ground)), reverse=True)
            assert (light + 0.05) / (dark + 0.05) >= 4.5, (text, ground)


def test_the_job_card_is_changed_and_the_facts_stay_exact(qtbot, on_demo):
    """Fields show rounded figures; keeping the card without touching them changes nothing."""
    before = on_demo.desk.job.facts
    press(qtbot, on_demo, "Ctrl+E")
    card = on_demo.panels.take_in
    card.title.setText("Ticket-desk PC, left")
    qtbot.mouseClick(card.keep_button, Qt.MouseButton.LeftButton)
    settle(qtbot, on_demo)
    assert on_demo.desk.job.card.title == "Ticket-desk PC, left"
    assert on_demo.desk.job.facts == before
    press(qtbot, on_demo, "Ctrl+E")
    card.memory.setText("8")
    card.drive_free.setText("lots")
    qtbot.mouseClick(card.keep_button, Qt.MouseButton.LeftButton)
    assert "“lots” is not a figure" in card.trouble.text()
    card.drive_free.setText("120")
    qtbot.mouseClick(card.keep_button, Qt.MouseButton.LeftButton)
    settle(qtbot, on_demo)
    facts = on_demo.desk.job.facts
    assert (facts.memory_bytes, facts.drives[0].free_bytes) == (8 * 2**30, 120 * 10**9)


def test_a_posting_is_put_back_from_its_line(qtbot, on_demo):
    on_demo.desk.select_line(1)
    settle(qtbot, on_demo)
    press(qtbot, on_demo, "Ctrl+U")
    confirm(qtbot, on_demo.panels.putting_back)
    settle(qtbot, on_demo)
    job = on_demo.desk.job
    assert state_of(job, job.postings[0]) is PostingState.STRUCK_OUT
    shown = [row.particulars for row in on_demo.book.model.words]
    assert "Put back: Switched off 5 sign-in programs" in shown
    press(qtbot, on_demo, "Ctrl+Z")
    settle(qtbot, on_demo)
    assert state_of(on_demo.desk.job, on_demo.desk.job.postings[0]) is PostingState.IN_FORCE


def test_what_is_pencilled_is_rubbed_out(qtbot, on_demo):
    press(qtbot, on_demo, "Ctrl+Backspace")
    settle(qtbot, on_demo)
    assert on_demo.desk.job.pencilled is None
    assert not on_demo.action("post").isEnabled()


def test_recordings_a_crash_left_over_are_pointed_out(opened, demo_path, qtbot):
    folder = demo_path.parent / "recordings"
    folder.mkdir()
    record_to(folder / "boot-x.jsonl.gz", seed=7, seconds=30.0)
    window = opened(demo_path)
    qtbot.waitUntil(lambda: "is in no book" in window.message)


def test_the_load_can_be_searched_sorted_and_spanned(qtbot, on_demo):
    on_demo.right.show_lens(LensName.LOAD)
    lens = on_demo.right.load
    qtbot.waitUntil(lambda: lens.model.rowCount() > 0)
    whole = lens.model.rowCount()
    qtbot.keyClicks(lens.search, "harbour")
    assert lens.table.model().rowCount() == 1
    lens.search.clear()
    lens.table.sortByColumn(2, Qt.SortOrder.DescendingOrder)
    assert lens.table.model().index(0, 0).data() == "harbour-guard"
    rest = next(b for b in lens._spans.buttons() if b.text() == "at rest")
    before = lens._sums.text()
    qtbot.mouseClick(rest, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: lens._sums.text() != before)
    assert lens.model.rowCount() <= whole


def test_a_bug_is_logged_and_said_and_the_window_stays(on_demo, monkeypatch):
    monkeypatch.setattr("sys.__excepthook__", lambda *_: None)
    log = start_logging(on_demo.desk.workshop.place.logs)
    try:
        raise ZeroDivisionError("ours")
    except ZeroDivisionError as error:
        sys.excepthook(type(error), error, error.__traceback__)
    assert "ZeroDivisionError" in on_demo.message
    assert "ours" in log.read_text()
    stop_logging()
    assert on_demo.isVisible()


def test_a_damaged_ledger_is_shown_and_a_repaired_copy_saved(opened, demo_path, tmp_path, qtbot):
    connection = sqlite3.connect(demo_path)
    connection.execute("UPDATE boots SET readings = '[' WHERE rowid = 2")
    connection.commit()
    connection.close()
    window = opened(demo_path)
    qtbot.waitUntil(lambda: window.desk.job is not None)
    assert "is damaged" in window.message
    assert "1 damaged row is lost" in window.message
    made = window.actions_made.made
    assert made["repaired_copy"].isEnabled()
    assert not made["record"].isEnabled()
    copy = tmp_path / "repaired.ledger"
    window.files.save_repaired(copy)
    qtbot.waitUntil(lambda: "repaired copy is" in window.message)
    again = opened(copy)
    assert again.desk.ledger.read_only_because is None
    assert not again.actions_made.made["repaired_copy"].isEnabled()


@pytest.mark.in_a_file
def test_figures_of_an_older_method_are_worked_out_anew_while_the_window_is_used(demo, qtbot):
    path, right = of_an_older_method(demo)
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


@pytest.mark.in_a_file
def test_a_job_that_is_opened_while_the_window_comes_up_stays_open(demo, qtbot, monkeypatch):
    """Another one is in work, and would be opened by itself, before this one has been read."""

    def read_slowly(ledger, number):
        time.sleep(0.3)
        return read_job(ledger, number)

    monkeypatch.setattr("plucky_ledger.ui.desk.read_job", read_slowly)
    path, number = demo.path, find_job(demo, "0398")
    demo.close()
    window = open_window(path)
    qtbot.addWidget(window)
    window.desk.open_job(number)
    window.show()
    qtbot.waitUntil(lambda: bool(window.desk.shelf) and window.desk.job is not None)
    qtbot.wait(500)  # for what would open the other
    assert window.desk.job.number == number
    window.close()
