"""A walk through the window with the demo, offscreen: the longest stretch on its thread, from a
decision's key to the preview, and what the program holds.

Every lens on every line, decisions, zooms, panels. A stretch is one event as the window's thread
takes it, in CPU seconds of that thread and by the clock.
"""

import gc
import os
import statistics
import sys
import tempfile
import time
from functools import partial
from pathlib import Path

os.environ["QT_QPA_PLATFORM"] = "offscreen"

import plucky_ledger.ui  # noqa: F401 first, as in the installed command

# isort: split
from PySide6.QtCore import Qt, QTimer
from PySide6.QtTest import QTest
from tests.helpers.watchdog import WatchedApplication

from goals import measured
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.ui.app import WINDOW_KEEPS, make_ready, open_window
from plucky_ledger.ui.lenses.lanes_canvas import LanesCanvas
from plucky_ledger.ui.lenses.registry import LensName
from plucky_ledger.ui.theme import dress
from plucky_ledger.ui.window import Window
from plucky_ledger.usecases.jobs.demo import write_demo

TOGGLES = 15
PAGE = os.sysconf("SC_PAGE_SIZE")


def until(ready, seconds: float = 20.0) -> float:
    begin = time.perf_counter()
    while not ready():
        QTest.qWait(1)  # whoever works something out has the processor meanwhile
        assert time.perf_counter() - begin < seconds, "it never came"
    return time.perf_counter() - begin


def settle(seconds: float = 0.15) -> None:
    end = time.perf_counter() + seconds
    until(lambda: time.perf_counter() > end)


def held_megabytes() -> float:
    return int(Path("/proc/self/statm").read_text().split()[1]) * PAGE / 1e6


def walk(window: Window) -> None:
    def do(step, seconds: float = 0.15) -> None:
        QTimer.singleShot(0, step)  # as an event of its own, so that it is watched as well
        settle(seconds)

    for lens in LensName:
        do(partial(window.right.show_lens, lens), 0.6)
        for line in range(len(window.desk.job.rounds)):
            do(partial(window.desk.select_line, line))
    for measure in (*Measure, Measure.SETTLED):
        do(partial(window.desk.keep_book_in, measure))
    do(partial(window.right.show_lens, LensName.LANES))
    canvas = window.right.lanes.canvas
    for step in range(30):
        do(partial(canvas.zoom, 1.2 if step % 3 else 0.5), 0.02)
        do(partial(canvas.step, 1), 0.02)
    for show in ("show_recording", "show_write_down", "show_look_up", "show_take_in"):
        do(getattr(window.panels, show))
    do(window.ways.to_manual)


def toggles(window: Window) -> list[float]:
    """From the key to the preview that knows of it."""
    window.desk.select_line(5)
    window.right.show_lens(LensName.LANES)
    lens = window.right.lanes
    canvas = lens.canvas
    canvas.setFocus()
    until(lambda: canvas._behind is not None)
    settle(4.0)  # what opening has begun is worked out
    canvas.look_for("brassrail")
    took = []
    for turn in range(TOGGLES):
        off = turn % 2 == 0
        begin = time.perf_counter()
        QTest.keyClick(canvas, Qt.Key.Key_O if off else Qt.Key.Key_K)
        until(partial(_knows, canvas, off))
        took.append(time.perf_counter() - begin)
        settle()
    return took


def _knows(canvas: LanesCanvas, off: bool) -> bool:
    """Whether the preview is that of a plan with the entry off, or of one without."""
    behind = canvas._behind
    return behind is not None and ("brassrail-till" not in behind.index_of) is off


def main() -> None:
    app = WatchedApplication([])
    dress(app)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "demo.ledger"
        write_demo(path, lambda _done, _total: True)
        window = open_window(path)
        with app.watching() as start:
            window.show()
            until(lambda: window.right.lanes.canvas.page is not None)
        gc.set_threshold(WINDOW_KEEPS)  # as the command has it once its window is up
        took = toggles(window)
        with app.watching() as seen:
            make_ready(window)
            settle(2.5)
            walk(window)
        print(
            f"longest stretch on the window's thread: {seen.longest * 1e3:.0f} ms of CPU, "
            f"{seen.wall * 1e3:.0f} ms by the clock ({seen.of}); while it opens "
            f"{start.longest * 1e3:.0f} ms; {len(seen.seen)} events"
        )
        measured("ms of CPU at a stretch on the window's thread", seen.longest * 1e3, 50, "{:.0f}")
        slow = sorted(seen.seen)[-5:]
        print(f"the five longest, ms: {', '.join(f'{one * 1e3:.0f}' for one in slow)}")
        measured(
            "ms from a decision's key to its preview",
            statistics.median(took) * 1e3,
            100,
            "{:.0f}",
            f"{max(took) * 1e3:.0f}",
        )
        print(f"held after the walk: {held_megabytes():.0f} MB")
        window.close()


if __name__ == "__main__":
    sys.exit(main())
