"""One zoom, pan or scroll step over 2,000 lanes and 10 Hz samples, and one over an empty timeline.

Offscreen; the ratio says what the lanes themselves cost, whatever the machine.
"""

import os
import statistics
import time

os.environ["QT_QPA_PLATFORM"] = "offscreen"

import numpy as np
from PySide6.QtCore import QEvent, QPointF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from goals import measured
from plucky_ledger.core.boots.analysis import Analysis
from plucky_ledger.core.boots.boot import Boot, How
from plucky_ledger.core.boots.samples import Samples
from plucky_ledger.core.boots.timeline import Activity, Timeline
from plucky_ledger.core.entries.entry import EntryKind, EntryOwner, StartupEntry
from plucky_ledger.core.replay.voices import MOST_STEPS, Voice, Voices
from plucky_ledger.pages.lanes import lanes_page
from plucky_ledger.ui.lenses.lanes_canvas import LanesCanvas
from plucky_ledger.ui.theme import dress

LANES, SAMPLES, STEPS = 2_000, 600, 120


def made_up(lanes: int, samples: int) -> Analysis:
    from datetime import UTC, datetime

    rng = np.random.default_rng(1)
    seconds = np.arange(samples + 1) * 0.1
    busy = np.cumsum(rng.random(samples + 1))
    zero = np.zeros(samples + 1)
    columns = Samples(
        seconds=seconds,
        cpu_seconds=busy * 0.1,
        disk_read_bytes=busy * 1e6,
        disk_written_bytes=zero,
        disk_busy_seconds=busy * 0.05,
        memory_held_bytes=zero + 2e9,
        processes=zero + 200,
        own_cpu_seconds=zero,
        own_memory_bytes=zero,
        runnable=4,
        blocked=4e9,
    )
    entries = tuple(
        StartupEntry(
            entry_id=f"e{i}",
            name=f"entry {i}",
            owner=EntryOwner.SYSTEM,
            kind=EntryKind.SYSTEM_SERVICE,
        )
        for i in range(lanes)
    )
    activities = tuple(
        Activity(
            entry_id=f"e{i}",
            waiting_from=i * 0.01,
            starting_from=i * 0.02,
            up_at=i * 0.025 + 0.5,
            after=(f"e{i - 1}",) if i else (),
        )
        for i in range(lanes)
    )
    boot = Boot(number=1, started_at=datetime.now(UTC), how=How.RECORDED)
    return Analysis(boot, Timeline(samples=columns, entries=entries, activities=activities))


def made_up_voices(lanes: int, samples: int) -> Voices:
    """Voices that begin one after the other and are held up half of the time."""
    rng = np.random.default_rng(2)
    steps = min(samples, MOST_STEPS)
    edges = np.linspace(0.0, samples * 0.1, steps + 1)
    of = {}
    for lane in range(lanes):
        cpu, drive = rng.random(steps), rng.random(steps) * 0.4
        idle = edges[:-1] < lane * 0.02 % (samples * 0.05)
        cpu[idle], drive[idle] = 0.0, 0.0
        of[f"e{lane}"] = Voice(cpu, drive, np.minimum(cpu * 2, 4.0), np.minimum(drive * 2, 1.0))
    return Voices(edges, Voice.alone(rng.random(steps) * 4, rng.random(steps)), of, 4)


def step_seconds(canvas: LanesCanvas) -> float:
    took = []
    for step in range(STEPS):
        begin = time.process_time()
        if step % 3 == 0:
            canvas.zoom(1.1 if step % 2 else 1 / 1.1)
        elif step % 3 == 1:
            canvas.pan(0.5 if step % 2 else -0.5)
        else:
            canvas.step(1)
        canvas.viewport().repaint()
        took.append(time.process_time() - begin)
    return statistics.median(took)


def crosshair_seconds(canvas: LanesCanvas) -> float:
    """A move of the pointer along one lane: the crosshair reads what lies under it."""
    took, y = [], canvas.viewport().height() * 0.6
    for step in range(STEPS):
        at = QPointF(300.0 + step, y)
        move = QMouseEvent(
            QEvent.Type.MouseMove,
            at,
            canvas.viewport().mapToGlobal(at),
            Qt.MouseButton.NoButton,
            Qt.MouseButton.NoButton,
            Qt.KeyboardModifier.NoModifier,
        )
        begin = time.process_time()
        QApplication.sendEvent(canvas.viewport(), move)
        canvas.viewport().repaint()
        took.append(time.process_time() - begin)
    return statistics.median(took)


def main() -> None:
    app = QApplication([])
    dress(app)
    figures = []
    for lanes, samples in ((0, 2), (LANES, SAMPLES)):
        canvas = LanesCanvas()
        canvas.resize(780, 700)
        canvas.show()
        page = lanes_page(made_up(lanes, samples), made_up_voices(lanes, samples))
        canvas.show_pages(page, None, "")
        app.processEvents()
        figures.append(step_seconds(canvas))
    print(f"a step takes {figures[1] / figures[0]:.1f} times that over an empty timeline")
    measured(f"CPU·ms a step over {LANES} lanes, {SAMPLES} samples", figures[1] * 1e3, 16, "{:.1f}")
    QTest.qWait(300)  # until it stands
    measured("CPU·ms a move of the crosshair", crosshair_seconds(canvas) * 1e3, 16, "{:.1f}")


if __name__ == "__main__":
    main()
