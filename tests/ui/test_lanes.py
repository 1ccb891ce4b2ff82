"""The lanes on screen: threads, search, folding, pictures; and arming from the window."""

from itertools import pairwise

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QImage
from PySide6.QtSvg import QSvgRenderer

from plucky_ledger.core.axes import Axis, within, zoomed
from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.core.pc.arming import Level
from plucky_ledger.usecases.arming import armed_state
from plucky_ledger.wording.lanes import lane_name


def test_threads_run_through_the_lanes(on_demo):
    """What held up settled begins with the first service and ends with the last program."""
    page = on_demo.right.lanes.canvas.page
    threads = {chain.mark: [link.entry_id for link in chain.links] for chain in page.chains}
    assert threads[Mark.SETTLED][0] == "device-setup.service"
    assert "sign-in-screen.service" in threads[Mark.SETTLED]
    assert threads[Mark.SETTLED][-1] in {"deckhand-updater", "saltmarsh-backup"}
    assert threads[Mark.SYSTEM_UP][-1] == "time-sync.service"


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
    assert lane_name(folded.lanes[0]).endswith("parts of the system")
    on_thread = {link.entry_id for chain in folded.chains for link in chain.links}
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
    before, after = Axis(*view, 100, 900), Axis(*closer, 100, 900)
    assert before.place(about) == pytest.approx(after.place(about))
    assert after.value(after.place(about)) == pytest.approx(about)
    assert zoomed(view, whole, about, 1e-9) == whole
    assert within((-20.0, 20.0), whole) == (0.0, 40.0)


@pytest.mark.parametrize("length", [0.3, 7.0, 90.0, 5000.0])
def test_ticks_are_round_and_never_crowded(length):
    axis = Axis(3.0, 3.0 + length, 0.0, 800.0)
    places = [axis.place(seconds) for seconds in axis.ticks()[0]]
    assert len(places) >= 2
    assert min(b - a for a, b in pairwise(places)) >= 59.9


def test_arming_and_disarming_from_the_window(qtbot, empty, tmp_path, monkeypatch):
    autostart = tmp_path / "config" / "autostart"
    monkeypatch.setenv("XDG_CONFIG_HOME", str(autostart.parent))
    qtbot.mouseClick(empty.shelf.take_in_button, Qt.MouseButton.LeftButton)
    qtbot.keyClicks(empty.panels.take_in.title, "Bench PC")
    qtbot.mouseClick(empty.panels.take_in.keep_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: empty.desk.job is not None and empty.desk.busy == 0)
    empty.panels.show_arming()
    panel = empty.panels.arming
    panel.level.setCurrentIndex(panel.level.findData(Level.AUTOSTART))
    panel.boots.setValue(2)
    qtbot.mouseClick(panel.arm_button, Qt.MouseButton.LeftButton)
    number, place = empty.desk.job.number, empty.desk.workshop.place
    qtbot.waitUntil(lambda: "Armed for 2 boots" in empty.message)
    assert armed_state(place, number).boots_left == 2
    assert list(autostart.iterdir())
    qtbot.waitUntil(panel.disarm_button.isEnabled)
    qtbot.mouseClick(panel.disarm_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "every trace is removed" in empty.message)
    assert not list(autostart.iterdir())


def test_a_pc_without_a_log_says_so_beside_the_button(qtbot, empty, monkeypatch, tmp_path):
    monkeypatch.setenv("PATH", str(tmp_path))
    qtbot.mouseClick(empty.shelf.take_in_button, Qt.MouseButton.LeftButton)
    qtbot.keyClicks(empty.panels.take_in.title, "Bench PC")
    qtbot.mouseClick(empty.panels.take_in.keep_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: empty.desk.job is not None and empty.desk.busy == 0)
    empty.panels.show_arming()
    qtbot.mouseClick(empty.panels.arming.past_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "Record its boots instead" in empty.panels.arming.trouble.text())
