"""The lanes on screen: threads, search, folding, pictures; and arming from the window."""

from itertools import pairwise

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QImage
from PySide6.QtSvg import QSvgRenderer

from plucky_ledger.capture.arming import Level, Places
from plucky_ledger.ui.lenses.time_axis import TimeAxis, within, zoomed
from plucky_ledger.usecases.arming import armed_folder, armed_state


def test_threads_run_through_the_lanes(on_demo):
    """What held up settled begins with the first service and ends with the last program."""
    page = on_demo.right.lanes.canvas.page
    threads = {thread.title: [link.entry_id for link in thread.links] for thread in page.threads}
    assert threads["settled"][0] == "device-setup.service"
    assert "sign-in-screen.service" in threads["settled"]
    assert threads["settled"][-1] in {"deckhand-updater", "saltmarsh-backup"}
    assert threads["system up"][-1] == "time-sync.service"


def test_searching_marks_a_lane_and_folding_hides_the_systems_parts(qtbot, on_demo):
    lens = on_demo.right.lanes
    before = len(lens.canvas.page.lanes)
    assert lens.canvas.look_for("brassrail")
    assert not lens.canvas.look_for("nothing of that name")
    plain = lens.canvas.grab().toImage()
    qtbot.keyClicks(lens.search, "harbour")
    assert lens.canvas.grab().toImage() != plain
    qtbot.mouseClick(lens.fold, Qt.MouseButton.LeftButton)
    folded = lens.canvas.page
    assert len(folded.lanes) < before
    assert folded.lanes[0].name.endswith("parts of the system")
    on_thread = {link.entry_id for thread in folded.threads for link in thread.links}
    assert on_thread <= {lane.entry_id for lane in folded.lanes}


@pytest.mark.parametrize("name", ["lanes.svg", "lanes.png"])
def test_the_lanes_are_saved_whole(qtbot, on_demo, tmp_path, name):
    on_demo.right.lanes.save(tmp_path / name)
    qtbot.waitUntil(lambda: "The lanes are in" in on_demo.message)
    if name.endswith("svg"):
        assert QSvgRenderer(str(tmp_path / name)).isValid()
        assert "Lanternprint Agent" in (tmp_path / name).read_text()
    else:
        image = QImage(str(tmp_path / name))
        assert image.height() > 20 * 26
    on_demo.right.lanes.save(tmp_path / "missing" / name)
    qtbot.waitUntil(lambda: "Choose another folder" in on_demo.message)


def test_a_rounds_typical_boot_is_offered_behind(on_demo):
    offered = [on_demo.right.chooser.behind.itemText(i)
               for i in range(on_demo.right.chooser.behind.count())]  # fmt: skip
    assert "line 1, typical" in offered


def test_zooming_keeps_the_instant_under_the_pointer():
    view, whole = (10.0, 50.0), (0.0, 100.0)
    about = 22.0
    closer = zoomed(view, whole, about, 2.0)
    before, after = TimeAxis(*view, 100, 900), TimeAxis(*closer, 100, 900)
    assert before.x(about) == pytest.approx(after.x(about))
    assert after.seconds(after.x(about)) == pytest.approx(about)
    assert zoomed(view, whole, about, 1e-9) == whole
    assert within((-20.0, 20.0), whole) == (0.0, 40.0)


@pytest.mark.parametrize("length", [0.3, 7.0, 90.0, 5000.0])
def test_ticks_are_round_and_never_crowded(length):
    axis = TimeAxis(3.0, 3.0 + length, 0.0, 800.0)
    places = [axis.x(seconds) for seconds, _ in axis.ticks()]
    assert len(places) >= 2
    assert min(b - a for a, b in pairwise(places)) >= 59.9


def test_arming_and_disarming_from_the_window(qtbot, empty, tmp_path, monkeypatch):
    places = Places(tmp_path / "s", tmp_path / "u", tmp_path / "a")
    monkeypatch.setattr("plucky_ledger.usecases.arming.places", lambda: places)
    qtbot.mouseClick(empty.shelf.take_in_button, Qt.MouseButton.LeftButton)
    qtbot.keyClicks(empty.take_in.title, "Bench PC")
    qtbot.mouseClick(empty.take_in.keep_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: empty.desk.job is not None and empty.desk.busy == 0)
    empty.show_arming()
    panel = empty.arming
    panel.level.setCurrentIndex(panel.level.findData(Level.AUTOSTART))
    panel.boots.setValue(2)
    qtbot.mouseClick(panel.arm_button, Qt.MouseButton.LeftButton)
    folder = armed_folder(empty.desk.ledger.path, empty.desk.job.number)
    qtbot.waitUntil(lambda: "Armed for 2 boots" in empty.message)
    assert armed_state(folder).boots_left == 2
    assert list(places.autostart.iterdir())
    qtbot.mouseClick(panel.disarm_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "every trace is removed" in empty.message)
    assert not list(places.autostart.iterdir())


def test_a_pc_without_a_log_says_so_beside_the_button(qtbot, empty, monkeypatch, tmp_path):
    monkeypatch.setenv("PATH", str(tmp_path))
    qtbot.mouseClick(empty.shelf.take_in_button, Qt.MouseButton.LeftButton)
    qtbot.keyClicks(empty.take_in.title, "Bench PC")
    qtbot.mouseClick(empty.take_in.keep_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: empty.desk.job is not None and empty.desk.busy == 0)
    empty.show_arming()
    qtbot.mouseClick(empty.arming.past_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "Record its boots instead" in empty.arming.trouble.text())
