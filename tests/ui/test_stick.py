"""A stick at the window: noticed, taken in by one key, written."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog

from plucky_ledger.stick.archive import FILE, GUIDE
from plucky_ledger.ui import sticks as noticing
from plucky_ledger.usecases.recording import sticks
from tests.ui.test_window import press
from tests.usecases.test_sticks import FIRST, HERE, SECOND, THERE, THIRD, put


@pytest.fixture
def media(tmp_path, monkeypatch):
    """Where sticks are mounted; looked at often."""
    folder = tmp_path / "media"
    folder.mkdir()
    monkeypatch.setattr(sticks, "mounted_below", lambda: [folder])
    monkeypatch.setattr(noticing, "LOOK_AGAIN_MILLISECONDS", 50)
    return folder


def test_a_stick_is_noticed_and_taken_in_by_one_key(media, empty, qtbot):
    take_in = empty.action("take_in_stick")
    assert not take_in.isEnabled()
    put(media / "STICK", HERE, FIRST, SECOND)
    qtbot.waitUntil(lambda: "2 new recordings" in empty.message)
    assert "ticketdesk (2, no job yet)" in empty.message
    assert noticing.KEY in empty.message
    press(qtbot, empty, noticing.KEY)
    qtbot.waitUntil(lambda: empty.desk.job is not None and not empty.desk.busy)
    assert empty.desk.job.card.title == "ticketdesk"
    assert len(empty.desk.job.boots) == 2
    qtbot.waitUntil(lambda: not take_in.isEnabled())
    put(media / "STICK", THERE, THIRD, name="quay")
    qtbot.waitUntil(lambda: "1 new recording:" in empty.message)
    assert empty.desk.job.card.title == "ticketdesk"


def test_a_stick_is_written_from_the_menu(media, empty, qtbot, tmp_path):
    folder = tmp_path / "stick"
    folder.mkdir()
    empty.action("write_stick").trigger()
    (dialog,) = empty.findChildren(QFileDialog)
    qtbot.keyClick(dialog, Qt.Key.Key_Escape)
    empty.sticks.write(folder)
    qtbot.waitUntil(lambda: str(folder / FILE) in empty.message)
    assert sorted(path.name for path in folder.iterdir()) == [GUIDE, FILE]
    empty.sticks.write(folder / FILE)
    qtbot.waitUntil(lambda: empty.message_line.message.bad)


@pytest.mark.in_a_file
def test_the_demo_is_left_alone(media, on_demo, qtbot):
    put(media / "STICK", HERE, FIRST)
    assert not on_demo.sticks.isActive()


def test_recordings_opened_from_outside(media, empty, qtbot, tmp_path):
    """The first is new; opened again it shows the job that has it."""
    (recording,) = put(tmp_path, HERE, FIRST).glob("*.gz")
    empty.sticks.open([recording])
    qtbot.waitUntil(lambda: "1 new recording: ticketdesk" in empty.message)
    qtbot.wait(200)
    assert empty.action("take_in_stick").isEnabled()
    press(qtbot, empty, noticing.KEY)
    qtbot.waitUntil(lambda: empty.desk.job is not None and not empty.desk.busy)
    number = empty.desk.job.number
    empty.show_shelf()
    assert empty.desk.job is None
    empty.sticks.open([recording])
    qtbot.waitUntil(lambda: empty.desk.job is not None)
    assert empty.desk.job.number == number
