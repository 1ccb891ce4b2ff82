"""A window on a ledger, driven as a technician would."""

import gc
from pathlib import Path

import pytest
from PySide6.QtCore import QEvent, Qt
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from plucky_ledger.ui.app import open_window
from plucky_ledger.ui.theme import dress
from plucky_ledger.usecases.jobs import workshop
from plucky_ledger.usecases.reading.analyses import Analyses
from plucky_ledger.usecases.reading.costs import CostsKept
from tests.helpers.watchdog import WatchedApplication


@pytest.fixture(scope="session")
def qapp_cls():
    """An application that can be watched."""
    return WatchedApplication


class PatientBot(QtBot):
    """Waits as long as a machine that does a dozen other things may need; passes at once."""

    def waitUntil(self, callback, *, timeout=120_000):
        super().waitUntil(callback, timeout=timeout)


@pytest.fixture
def qtbot(qapp, request):
    """Our patient bot in place of the plugin's own."""
    return PatientBot(request)


ANALYSES = Analyses()
COSTS = CostsKept(ANALYSES)


@pytest.fixture(autouse=True)
def analysed_before(request, monkeypatch):
    """Boots are analysed, and costs worked out, once for all windows of this process.

    Both are kept by everything they depend on, and every demo ledger is a copy of the same; what is
    about windows that have yet to work them out is marked ``cold``.
    """
    if request.node.get_closest_marker("cold") is None:
        monkeypatch.setattr(workshop, "Analyses", lambda: ANALYSES)
        monkeypatch.setattr(workshop, "CostsKept", lambda _analyses: COSTS)


@pytest.fixture(scope="session", autouse=True)
def modules_kept():
    """Garbage is not looked for among all that was imported, after every window."""
    gc.collect()
    gc.freeze()


@pytest.fixture
def opened(qtbot):
    """Opens a window on a ledger file; closes it, and its threads, at the end."""
    windows = []

    def open_one(path: Path):
        dress(QApplication.instance())
        window = open_window(path)
        qtbot.addWidget(window)
        windows.append(window)
        window.show()
        qtbot.waitUntil(lambda: window.desk.busy == 0)
        return window

    yield open_one
    for window in windows:
        window.close()
        window.deleteLater()
    # What is still there would be dressed, and asked about every event, by all tests that follow.
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    gc.collect()
    QApplication.processEvents()


@pytest.fixture
def on_demo(opened, demo_place, qtbot):
    """A window with the demo job open and its newest opening boot read."""
    window = opened(demo_place)
    qtbot.waitUntil(lambda: window.desk.job is not None)
    window.desk.select_line(0)
    qtbot.waitUntil(
        lambda: window.desk.analysis(window.desk.boot) is not None and window.desk.busy == 0,
    )
    QApplication.processEvents()
    return window


@pytest.fixture
def empty(opened, tmp_path, qtbot):
    """A window on a new ledger."""
    return opened(tmp_path / "new" / "workshop.ledger")


def confirm(qtbot, panel):
    """What a page shows before it changes a PC is read, ticked and agreed to, by one key."""
    qtbot.waitUntil(lambda: panel.isVisible() and bool(panel.planned))
    for box in panel.boxes:
        box.setChecked(True)
    qtbot.waitUntil(panel.do_button.isEnabled)
    qtbot.keyClick(panel.do_button, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: not panel.isVisible())
