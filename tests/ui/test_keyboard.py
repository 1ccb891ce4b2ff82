"""A whole job with the keyboard alone: every key is sent to whatever has the focus."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QPushButton

from plucky_ledger.core.job.job import Card, state_of
from plucky_ledger.core.job.postings import PostingState
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.pc.which import PcKind, WhichPc
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.ui.lenses.registry import LensName
from plucky_ledger.usecases.jobs.jobs import take_in
from plucky_ledger.wording.verdict import answer
from tests.ui.conftest import confirm

CONTROL, NONE = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.NoModifier


class Keyboard:
    """Somebody without a mouse."""

    def __init__(self, qtbot, window):
        self.qtbot, self.window = qtbot, window
        window.activateWindow()
        qtbot.waitUntil(lambda: QApplication.activeWindow() is window)

    def press(self, key, modifiers=NONE):
        focus = QApplication.focusWidget() or self.window
        QTest.keyClick(focus, key, modifiers)
        QApplication.processEvents()

    def type(self, text):
        QTest.keyClicks(QApplication.focusWidget(), text)

    def tab_to(self, wanted):
        for _ in range(60):
            if QApplication.focusWidget() is wanted:
                return
            self.press(Qt.Key.Key_Tab)
        pytest.fail(f"{wanted.accessibleName() or wanted} is never reached")

    def press_button(self, button: QPushButton):
        self.tab_to(button)
        self.press(Qt.Key.Key_Space)


@pytest.fixture
def keyboard(qtbot, opened, tmp_path):
    path = tmp_path / "workshop.ledger"
    with Ledger(path) as ledger:
        take_in(ledger, Card("", "Till"), Facts(), WhichPc(PcKind.STAND_IN, "ticket-desk"))
    window = opened(path)
    qtbot.waitUntil(lambda: window.desk.job is not None)
    return Keyboard(qtbot, window)


def record(keyboard, boots):
    """Ctrl+R, Return, and the boot comes into the book."""
    window, qtbot = keyboard.window, keyboard.qtbot
    keyboard.press(Qt.Key.Key_R, CONTROL)
    panel = window.panels.recording
    qtbot.waitUntil(panel.isVisible)
    keyboard.press_button(panel.start_button)
    qtbot.waitUntil(lambda: panel.running)
    qtbot.waitUntil(
        lambda: (
            not panel.running
            and sum(map(len, window.desk.job.rounds)) == boots
            and window.desk.busy == 0
        )
    )


def test_a_whole_job_without_a_mouse(keyboard):
    window, qtbot = keyboard.window, keyboard.qtbot
    record(keyboard, 1)
    record(keyboard, 2)
    keyboard.press(Qt.Key.Key_2)
    assert window.right.lens is LensName.ENTRIES
    entries = window.right.entries
    qtbot.waitUntil(lambda: entries.ready)
    keyboard.tab_to(entries.table)
    assert entries.current is entries.model.rows[0].row
    for _ in range(len(entries.model.rows)):
        if entries.current.entry.entry_id == "lanternprint-agent":
            break
        keyboard.press(Qt.Key.Key_Down)
    assert entries.current.entry.entry_id == "lanternprint-agent"
    keyboard.press(Qt.Key.Key_O)
    qtbot.waitUntil(lambda: window.desk.job.pencilled is not None)
    qtbot.waitUntil(lambda: window.desk.busy == 0)
    assert QApplication.focusWidget() is entries.table
    keyboard.press(Qt.Key.Key_1)
    canvas = window.right.lanes.canvas
    qtbot.waitUntil(lambda: canvas.page is not None and canvas.page.voices is not None)
    keyboard.tab_to(canvas)
    keyboard.press(Qt.Key.Key_Home)
    keyboard.press(Qt.Key.Key_L)
    qtbot.waitUntil(lambda: len(window.desk.job.pencilled.changes) == 2)
    keyboard.press(Qt.Key.Key_Return, CONTROL)
    confirm(qtbot, window.panels.posting)
    qtbot.waitUntil(lambda: window.desk.job.pencilled is None and window.desk.busy == 0)
    record(keyboard, 3)
    record(keyboard, 4)
    assert window.right.lens is LensName.VERDICT
    qtbot.waitUntil(lambda: window.right.verdict.page is not None)
    assert answer(window.right.verdict.page).sentence
    if not window.ways.in_the_book:
        keyboard.press(Qt.Key.Key_F6)
    assert window.ways.in_the_book
    keyboard.press(Qt.Key.Key_F2)
    assert window.panels.basis.isVisible()
    keyboard.press(Qt.Key.Key_Escape)
    keyboard.press(Qt.Key.Key_6)
    assert window.right.lens is LensName.STATEMENT
    keyboard.press(Qt.Key.Key_U, CONTROL | Qt.KeyboardModifier.ShiftModifier)
    confirm(qtbot, window.panels.putting_back)
    qtbot.waitUntil(lambda: len(window.desk.job.postings) == 2 and window.desk.busy == 0)
    first = window.desk.job.postings[0]
    assert state_of(window.desk.job, first) is PostingState.STRUCK_OUT
    keyboard.press(Qt.Key.Key_J, CONTROL)
    qtbot.waitUntil(lambda: window.desk.job is None)
    assert window.shelf.isVisible()
    keyboard.press(Qt.Key.Key_N, CONTROL)
    card = window.panels.take_in
    qtbot.waitUntil(card.isVisible)
    keyboard.press(Qt.Key.Key_A, CONTROL)
    keyboard.type("Quay PC")
    keyboard.press_button(card.keep_button)
    qtbot.waitUntil(lambda: window.desk.job is not None)
    assert window.desk.job.card.title == "Quay PC"
