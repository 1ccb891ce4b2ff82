"""Take the pictures for docs/screenshots from the demo data, with no display.

Only the stand-in PC is shown; figures are those of a freshly recorded demo ledger. With "dark",
"contrast", "german" or "200" all views are taken so, and laid on one sheet.
"""

import os
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

os.environ["QT_QPA_PLATFORM"] = "offscreen"
os.environ["TZ"] = "UTC"
if sys.argv[1:] == ["200"]:
    os.environ["QT_SCALE_FACTOR"] = "2"

from PySide6.QtCore import QElapsedTimer, QEventLoop, Qt
from PySide6.QtGui import QPainter, QPixmap
from PySide6.QtWidgets import QApplication

from plucky_ledger.ui.app import open_window, speak_qt
from plucky_ledger.ui.lenses.registry import LensName
from plucky_ledger.ui.theme import Appearance, dress, show_in
from plucky_ledger.ui.window import Window
from plucky_ledger.usecases.jobs.demo import write_demo
from plucky_ledger.wording.language import use

FOLDER = Path(__file__).parent.parent / "docs" / "screenshots"
SETTLE_MILLISECONDS = 700
SHEET_COLUMNS, SHEET_WIDTH, SHEET_GAP = 3, 800, 12
APPEARANCES = {"dark": Appearance.DARK, "contrast": Appearance.CONTRAST}
taken: dict[str, QPixmap] = {}
"""The pictures so far, by name."""


def settle(until: Callable[[], bool] = lambda: True) -> None:
    timer = QElapsedTimer()
    timer.start()
    while timer.elapsed() < SETTLE_MILLISECONDS or (not until() and timer.elapsed() < 20_000):
        QApplication.processEvents(QEventLoop.ProcessEventsFlag.AllEvents, 20)


def shot(window: Window, name: str) -> None:
    settle(lambda: window.desk.busy == 0)
    taken[name] = window.grab()


def with_costs(window: Window) -> None:
    """Until the lanes know all that is worked out of the boot."""
    canvas = window.right.lanes.canvas
    settle(
        lambda: (
            canvas.page is not None
            and canvas.page.voices is not None
            and any(lane.cost for lane in canvas.page.lanes)
        )
    )


def lenses(window: Window) -> None:
    window.desk.select_line(5)
    with_costs(window)
    settle(lambda: window.right.lanes.canvas.sheet.behind is not None)
    window.right.lanes.canvas.choose("brassrail-till")
    shot(window, "lanes")
    window.desk.select_line(0)
    window.right.show_lens(LensName.ENTRIES)
    settle(lambda: window.right.entries.ready)
    shot(window, "entries")
    window.right.show_lens(LensName.LOAD)
    settle(lambda: bool(window.right.load.model.rows))
    shot(window, "load")
    window.desk.select_line(1)
    window.right.show_lens(LensName.VERDICT)
    settle(lambda: window.right.verdict.page is not None)
    shot(window, "verdict")
    window.right.verdict.which_button.click()
    settle(lambda: window.right.verdict.which.page is not None)
    shot(window, "which-change")
    window.right.verdict.which_button.click()
    window.desk.select_line(len(window.desk.boots))
    window.right.show_lens(LensName.WHY)
    settle(lambda: window.right.why.advice.page is not None)
    shot(window, "why")
    window.right.why.show_view(1)
    settle(lambda: window.right.why.trend.trend is not None)
    shot(window, "since-when")
    window.right.why.show_view(2)
    room = window.right.why.room
    room.look_button.click()
    settle(lambda: room.survey is not None)
    shot(window, "room")
    window.right.show_lens(LensName.STATEMENT)
    settle(lambda: window.right.statement.is_whole)
    shot(window, "statement")
    window.right.show_lens(LensName.LANES)
    window.ways.to_manual()
    shot(window, "manual")
    window.panels.manual.leave()


def panels(window: Window) -> None:
    window.panels.show_write_down()
    shot(window, "write-down")
    window.panels.show_recording()
    window.panels.recording.start()
    settle(lambda: len(window.panels.recording.marks_text) > 60)
    shot(window, "recording")
    window.panels.recording.stop_and_discard()
    settle(lambda: not window.panels.recording.running)
    window.panels.show_stopwatch()
    window.panels.stopwatch.press()
    window.panels.stopwatch.press()
    shot(window, "stopwatch")
    window.panels.stopwatch.leave()
    window.panels.show_card()
    shot(window, "job-card")
    window.panels.take_in.leave()
    window.show_shelf()
    shot(window, "shelf")


def sheet() -> QPixmap:
    """All pictures on one, in the order they were taken."""
    small = [
        one.scaledToWidth(SHEET_WIDTH, Qt.TransformationMode.SmoothTransformation)
        for one in taken.values()
    ]
    for one in small:
        one.setDevicePixelRatio(1)
    across, down = SHEET_WIDTH + SHEET_GAP, small[0].height() + SHEET_GAP
    rows = -(-len(small) // SHEET_COLUMNS)
    whole = QPixmap(SHEET_COLUMNS * across - SHEET_GAP, rows * down - SHEET_GAP)
    whole.fill(Qt.GlobalColor.gray)
    painter = QPainter(whole)
    for number, one in enumerate(small):
        row, column = divmod(number, SHEET_COLUMNS)
        painter.drawPixmap(column * across, row * down, one)
    painter.end()
    return whole


def save(ending: str) -> None:
    pictures = {f"all-{ending}": sheet()} if ending else taken
    for name, picture in pictures.items():
        picture.save(str(FOLDER / f"{name}.png"))
        sys.stdout.write(f"{name}.png\n")


def main(ending: str = "") -> None:
    FOLDER.mkdir(parents=True, exist_ok=True)
    app = QApplication([])
    if ending == "german":
        use("de_DE")
        speak_qt(app)
    dress(app)
    if ending in APPEARANCES:
        show_in(APPEARANCES[ending])
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "demo.ledger"
        write_demo(path, lambda _done, _total: True)
        window = open_window(path)
        window.show()
        settle(lambda: window.desk.boot is not None)
        lenses(window)
        panels(window)
        window.close()
        save(ending)


if __name__ == "__main__":
    main(*sys.argv[1:])
