"""The lanes on screen: threads, search, folding, pictures; and arming from the window."""

from contextlib import closing
from itertools import pairwise

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QImage
from PySide6.QtSvg import QSvgRenderer

from plucky_ledger.capture import real_pc
from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.core.job.job import Card
from plucky_ledger.core.pc.arming import Level
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.values.axes import Axis, within, zoomed
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.pages.lane_order import LaneOrder
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.ui.lenses.lanes_layout import Sheet
from plucky_ledger.usecases.changing.programs_set_aside import set_program_aside
from plucky_ledger.usecases.jobs.jobs import take_in
from plucky_ledger.usecases.jobs.workplace import Workplace
from plucky_ledger.usecases.recording.arming import armed_state
from tests.helpers.bus import SignInManager, private_bus
from tests.helpers.standin import record_to
from tests.ui.test_window import press


def test_threads_run_through_the_lanes(on_demo):
    """What held up settled begins with the first service and ends with the last program."""
    chain = on_demo.right.lanes.canvas.page.chain
    thread = [link.entry_id for link in chain.links]
    assert chain.mark is Mark.SETTLED
    assert thread[0] == "device-setup.service"
    assert "sign-in-screen.service" in thread
    assert thread[-1] in {"deckhand-updater", "saltmarsh-backup"}


def with_costs(qtbot, window):
    canvas = window.right.lanes.canvas
    qtbot.waitUntil(
        lambda: canvas.page.voices is not None and any(lane.cost for lane in canvas.page.lanes)
    )
    return window.right.lanes


def test_searching_marks_a_lane_and_folding_hides_the_systems_parts(qtbot, on_demo):
    lens = with_costs(qtbot, on_demo)
    folded = lens.canvas.page
    assert lens.canvas.look_for("brassrail")
    assert not lens.canvas.look_for("nothing of that name")
    plain = lens.canvas.grab().toImage()
    qtbot.keyClicks(lens.search, "harbour")
    assert lens.canvas.chosen == "harbour-guard.service"
    assert lens.canvas.grab().toImage() != plain
    assert {link.entry_id for link in folded.chain.links} <= {
        lane.entry_id for lane in folded.lanes
    }
    shown = lens.fold.text().removesuffix("…")  # cut where it is narrow
    assert shown.startswith("▸ 5 parts")
    assert f"▸ {lens.fold.accessibleName()}".startswith(shown)
    assert "5 parts of the system, the costliest desktop shell" in lens.fold.accessibleName()
    qtbot.mouseClick(lens.fold, Qt.MouseButton.LeftButton)
    assert len(lens.canvas.page.lanes) == len(folded.lanes) + 5


def test_the_lanes_stand_in_the_order_asked_for(qtbot, on_demo):
    lens = with_costs(qtbot, on_demo)
    costs = [lane.cost.value for lane in lens.canvas.page.lanes if lane.cost]
    assert costs == sorted(costs, reverse=True)
    assert lens.canvas.page.lanes[0].cost
    orders = {}
    for order in LaneOrder:
        at = lens.order_box.findData(order)
        lens.order_box.setCurrentIndex(at)
        lens.order_box.activated.emit(at)
        orders[order] = [lane.entry_id for lane in lens.canvas.page.lanes]
    assert len({frozenset(ids) for ids in orders.values()}) == 1
    chain = [link.entry_id for link in lens.canvas.page.chain.links]
    assert orders[LaneOrder.CHAIN][: len(chain)] == chain
    first = {lane.entry_id: lane.first_work for lane in lens.canvas.page.lanes}
    by_first = [first[entry_id] for entry_id in orders[LaneOrder.FIRST_WORK]]
    assert by_first == sorted(by_first)
    systems = [lane.part_of_system for lane in lens.canvas.page.lanes]
    by_owner = dict(zip(orders[LaneOrder.CHAIN], systems, strict=True))
    parts = [by_owner[entry_id] for entry_id in orders[LaneOrder.OWNER]]
    assert parts == sorted(parts)


def test_a_chosen_lane_is_inked_in_the_machines_and_told(qtbot, on_demo):
    lens = with_costs(qtbot, on_demo)
    canvas = lens.canvas
    canvas.setFocus()

    def machine():
        return canvas.grab(canvas.sheet.machine_box.toRect()).toImage()

    plain = machine()
    qtbot.keyClick(canvas, Qt.Key.Key_Home)
    assert canvas.chosen == "saltmarsh-backup"
    spoken = canvas.spoken_rows()[canvas.spoken_chosen()]
    assert spoken.name == "Saltmarsh Backup"
    assert spoken.cells[0].startswith("starts from")
    assert any(cell.startswith("slowed down by other programs for") for cell in spoken.cells)
    inked = machine()
    assert inked != plain
    at = QPoint(40, int(canvas.sheet.lanes_top + 1.5 * canvas.sheet.lane_height))
    qtbot.mouseClick(canvas.viewport(), Qt.MouseButton.LeftButton, pos=at)
    assert canvas.chosen == canvas.page.lanes[1].entry_id
    assert machine() != inked
    qtbot.keyClick(canvas, Qt.Key.Key_End)
    assert canvas.chosen == canvas.page.lanes[-1].entry_id


def test_entries_are_decided_in_the_lanes_and_the_preview_follows(qtbot, on_demo):
    """The view stays where it was; what is no longer there in pencil is struck."""
    on_demo.desk.select_line(5)
    lens = with_costs(qtbot, on_demo)
    canvas = lens.canvas
    qtbot.waitUntil(lambda: canvas._behind is not None)
    canvas.look_for("brassrail")
    canvas.zoom(1.5)
    view, settled = canvas.view, canvas._behind.page.settled
    assert "brassrail-till" in canvas._behind.index_of
    press(qtbot, on_demo, "O")
    qtbot.waitUntil(lambda: bool(canvas._behind) and canvas._behind.page.settled < settled)
    assert "brassrail-till" not in canvas._behind.index_of
    qtbot.waitUntil(
        lambda: any(
            lane.pencilled for lane in canvas.page.lanes if lane.entry_id == "brassrail-till"
        )
    )
    assert canvas.view == view
    assert canvas.chosen == "brassrail-till"


def test_a_sheet_that_stands_is_painted_once_under_the_crosshair(qtbot, on_demo, monkeypatch):
    """Moving the pointer reads; nothing is painted anew but where another lane is pointed at."""
    lens = with_costs(qtbot, on_demo)
    canvas = lens.canvas
    qtbot.waitUntil(lambda: not canvas._moving)
    canvas.grab()
    painted, paint = [], Sheet.paint
    monkeypatch.setattr(Sheet, "paint", lambda *asked: painted.append(1) or paint(*asked))
    middle = canvas.sheet.lanes_top + 0.5 * canvas.sheet.lane_height
    readings = set()
    for x in range(300, 600, 20):
        qtbot.mouseMove(canvas.viewport(), QPoint(x, int(middle)))
        canvas.grab()
        readings.add(canvas.crosshair_readings)
    assert len(readings) > 5
    assert len(painted) <= 2
    other = int(middle + 2 * canvas.sheet.lane_height)
    qtbot.mouseMove(canvas.viewport(), QPoint(600, other))
    before = len(painted)
    canvas.grab()
    assert len(painted) == before + 1
    canvas.choose(canvas.page.lanes[4].entry_id)
    canvas.grab()
    assert len(painted) == before + 2


def test_voices_follow_what_is_set_aside(qtbot, on_demo):
    """What no longer counts is drawn no longer, in the same boot."""
    lens = with_costs(qtbot, on_demo)

    def till():
        page = lens.canvas.page
        return page.voices.of.get("brassrail-till") if page.voices is not None else None

    assert till() is not None
    number = on_demo.desk.job.number
    on_demo.desk.do(lambda ledger: set_program_aside(ledger, number, "brassrail-till", "a trial"))
    qtbot.waitUntil(lambda: lens.canvas.page.voices is not None and till() is None)
    press(qtbot, on_demo, "Ctrl+Z")
    qtbot.waitUntil(lambda: till() is not None)


def test_another_boots_preview_is_never_laid_over(qtbot, on_demo):
    on_demo.desk.select_line(5)
    canvas = with_costs(qtbot, on_demo).canvas
    qtbot.waitUntil(lambda: canvas._behind is not None)
    laid, show = [], canvas.show_pages
    canvas.show_pages = lambda front, behind, empty: (
        laid.append((front, behind)) or show(front, behind, empty)
    )
    for line in (0, 1):
        on_demo.desk.select_line(line)  # while the preview of line 5 is laid over
        qtbot.waitUntil(lambda: canvas._behind is None)
        on_demo.desk.select_line(5)
        qtbot.waitUntil(lambda: canvas._behind is not None)
    assert any(behind is not None for _front, behind in laid)
    assert all(front.boot.uuid == behind.boot.uuid for front, behind in laid if behind is not None)
    assert all(front.boot in on_demo.desk.job.rounds[5] for front, behind in laid if behind)


def test_the_same_as_a_table_by_one_key(qtbot, on_demo):
    on_demo.desk.select_line(5)
    lens = with_costs(qtbot, on_demo)
    qtbot.waitUntil(lambda: lens.canvas._behind is not None)
    lens.canvas.look_for("tideclock")
    press(qtbot, on_demo, "T")
    table, model = lens.table, lens.table.model()
    assert table.isVisibleTo(on_demo)
    assert table.chosen == "tideclock-sync"

    def rows_shown():
        return [
            [model.index(row, column).data() for column in range(model.columnCount())]
            for row in range(model.rowCount())
        ]

    qtbot.waitUntil(lambda: any(row[6] for row in rows_shown()))
    rows = rows_shown()
    assert [row[0] for row in rows] == [lane.name for lane in lens.canvas.page.lanes]
    (row,) = [row for row in rows if row[0] == "TideClock Sync"]
    assert "(" in row[3]  # it is up earlier in pencil
    assert float(row[6].split(" ")[0]) > 1.0  # others held it up
    table.selectRow(0)
    assert lens.canvas.chosen == lens.canvas.page.lanes[0].entry_id
    press(qtbot, on_demo, "T")
    assert lens.canvas.isVisibleTo(on_demo)


@pytest.mark.parametrize("name", ["lanes.svg", "lanes.png"])
def test_the_lanes_are_saved_whole(qtbot, on_demo, tmp_path, name):
    on_demo.right.lanes.save(tmp_path / name)
    qtbot.waitUntil(lambda: "The picture is in" in on_demo.message)
    if name.endswith("svg"):
        assert QSvgRenderer(str(tmp_path / name)).isValid()
        assert "Lanternprint Agent" in (tmp_path / name).read_text()
    else:
        image = QImage(str(tmp_path / name))
        assert image.height() > 20 * 26
    on_demo.right.lanes.save(tmp_path / "missing" / name)
    qtbot.waitUntil(lambda: "Choose another folder" in on_demo.message)


def test_a_rounds_typical_boot_is_offered_behind(on_demo):
    offered = [
        on_demo.right.head.chooser.behind.itemText(i)
        for i in range(on_demo.right.head.chooser.behind.count())
    ]
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


@pytest.fixture
def bench_pc(qtbot, empty, tmp_path, monkeypatch):
    """A job about this PC, whose own folders are elsewhere; nobody can be the administrator."""
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "config"))
    qtbot.mouseClick(empty.shelf.take_in_button, Qt.MouseButton.LeftButton)
    qtbot.keyClicks(empty.panels.take_in.title, "Bench PC")
    qtbot.mouseClick(empty.panels.take_in.keep_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: empty.desk.job is not None and empty.desk.busy == 0)
    return empty


def test_arming_and_disarming_from_the_window(qtbot, bench_pc, tmp_path):
    empty, autostart = bench_pc, tmp_path / "config" / "autostart"
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
    assert not autostart.exists()


@pytest.mark.parametrize("allowed", [True, False])
def test_the_next_step_of_this_pc_is_to_arm_and_restart(qtbot, bench_pc, monkeypatch, allowed):
    """One button; who gets less than the best reads what it misses before it restarts."""

    def nobody(*_):
        raise Refused(TroubleCode.NOT_THE_ADMINISTRATOR)

    monkeypatch.setattr(real_pc, "is_administrator", lambda: False)
    monkeypatch.setattr(real_pc.administrator, "arm_the_system", nobody)
    panel = bench_pc.panels.arming
    with private_bus() as address, closing(SignInManager(address, allowed)) as sign_in:
        monkeypatch.setenv("DBUS_SYSTEM_BUS_ADDRESS", address)
        assert bench_pc.book.button.text() == "Arm and restart…"
        qtbot.mouseClick(bench_pc.book.button, Qt.MouseButton.LeftButton)
        assert panel.isVisibleTo(bench_pc)
        qtbot.waitUntil(panel.restart_button.isEnabled)
        assert "otherwise at sign-in" in panel.misses.text()
        qtbot.waitUntil(lambda: "is open: warden. Saltmarsh Backup asks" in panel.ends.text())
        qtbot.mouseClick(panel.restart_button, Qt.MouseButton.LeftButton)
        qtbot.waitUntil(lambda: "What was over before" in bench_pc.message)
        qtbot.waitUntil(lambda: panel.restart_button.text() == "Restart")
        assert sign_in.restarts == []
        qtbot.mouseClick(panel.restart_button, Qt.MouseButton.LeftButton)
        told = "This PC restarts" if allowed else "What was armed stays armed"
        qtbot.waitUntil(lambda: told in bench_pc.message)
        assert sign_in.restarts == ([("Reboot", (True,))] if allowed else [])
    number, place = bench_pc.desk.job.number, bench_pc.desk.workshop.place
    assert armed_state(place, number).boots_left == 3
    qtbot.mouseClick(panel.disarm_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "every trace is removed" in bench_pc.message)


def test_recording_at_rest_is_beside_it(qtbot, bench_pc):
    bench_pc.panels.show_arming()
    qtbot.mouseClick(bench_pc.panels.arming.at_rest_button, Qt.MouseButton.LeftButton)
    assert bench_pc.panels.recording.isVisibleTo(bench_pc)


def test_a_pc_without_a_log_says_so_beside_the_button(qtbot, bench_pc, monkeypatch, tmp_path):
    empty = bench_pc
    monkeypatch.setenv("PATH", str(tmp_path))
    empty.panels.show_arming()
    qtbot.mouseClick(empty.panels.arming.past_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "Record its boots instead" in empty.panels.arming.trouble.text())


def test_after_the_last_armed_boot_the_book_is_there_and_says_what_came(qtbot, opened, tmp_path):
    """The window opens on the job that its recordings wait for."""
    path = tmp_path / "workshop.ledger"
    with Ledger(path) as ledger:
        first, _ = (take_in(ledger, Card("", title), Facts()) for title in ("Till", "Quay"))
    folder = Workplace.beside(path).armed(first)
    folder.mkdir(parents=True)
    record_to(folder / "boot-x.jsonl.gz", 3)
    window = opened(path)
    qtbot.waitUntil(lambda: window.desk.job is not None and window.desk.busy == 0)
    qtbot.waitUntil(lambda: bool(window.desk.job.boots))
    assert window.desk.job.number == first
    assert "in the book" in window.message
    assert list(folder.iterdir()) == []
