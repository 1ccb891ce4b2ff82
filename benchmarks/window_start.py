"""What the window costs until it is usable with the demo ledger, and in the 15 s after.

By CPU time of fresh programs, in turns: ours as the installed command starts it, and empty main
windows, one of PySide6 alone, one that has also loaded what reads a ledger. Usable means that the
book and the lanes of its newest opening boot have been painted. Then how long a ledger of 1,000
boots takes to open.
"""

import os
import statistics
import subprocess
import sys
import tempfile
from pathlib import Path
from uuid import uuid4

from sqlalchemy import insert, select

from goals import cpu_seconds, measured, often
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.pages.book import book_page
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.tables.jobs import BootRow
from plucky_ledger.usecases.jobs.demo import write_demo
from plucky_ledger.usecases.jobs.jobs import read_jobs

ROUNDS = often(7, 2)
BOOTS = 1_000
AFTER_SECONDS = 15.0
EMPTY = """
import time
from PySide6.QtWidgets import QApplication, QMainWindow
app = QApplication([])
window = QMainWindow()
window.resize(1280, 800)
window.show()
app.processEvents()
window.grab()
print(time.process_time())
"""
WITH_LEDGER = f"import sqlalchemy.orm{EMPTY}"
OURS = """
import gc, os, sys, time
from pathlib import Path
gc.set_threshold(1_000_000)  # as the command does first of all
from PySide6.QtCore import QTimer
from plucky_ledger.ui import app
go_on = app.QApplication.exec
def loop(running):
    (window,) = [one for one in running.topLevelWidgets() if hasattr(one, "desk")]
    desk, canvas = window.desk, window.right.lanes.canvas
    while desk.analysis(desk.boot) is None or canvas.page is None:
        running.processEvents()
    window.grab()
    usable = time.process_time()
    pages = int(Path("/proc/self/statm").read_text().split()[1])
    # In its own loop: to look for events all the time would cost more than most of what happens.
    QTimer.singleShot(int(1000 * float(os.environ["STAYS_SECONDS"])), running.quit)
    go_on()
    held = pages * os.sysconf("SC_PAGE_SIZE") / 1e6
    print(usable, time.process_time() - usable, held)
    window.close()
    return 0
app.QApplication.exec = loop
from plucky_ledger.__main__ import main
main()
"""


def told_by(program: str, *arguments: str, stays: float = 0.0) -> list[float]:
    """The figures that a fresh program prints of itself, which is open for so many seconds."""
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen", "STAYS_SECONDS": str(stays)}
    # An installed program is compiled: else all of ours would be read as source, and nothing else.
    environment.pop("PYTHONDONTWRITEBYTECODE", None)
    done = subprocess.run(
        [sys.executable, "-c", program, *arguments],
        env=environment,
        check=True,
        stdout=subprocess.PIPE,
        stderr=subprocess.DEVNULL,
        text=True,
    )
    return [float(word) for word in done.stdout.split()]


def fill(path: Path) -> None:
    with Ledger(path) as ledger, ledger.session() as session:
        columns = [column.key for column in BootRow.__table__.columns if column.key != "number"]
        rows = [
            {name: getattr(row, name) for name in columns}
            for row in session.scalars(select(BootRow))
        ]
        more = range(BOOTS - len(rows))
        session.execute(
            insert(BootRow),
            [
                {**rows[i % len(rows)], "boot_id": f"made-up {i}", "uuid": str(uuid4())}
                for i in more
            ],
        )


def open_with_its_book(path: Path) -> None:
    with Ledger(path) as ledger:
        job, *_ = read_jobs(ledger)
        book_page(job, Measure.SETTLED)


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "demo.ledger"
        write_demo(path, lambda _done, _total: True)
        told_by(OURS, "--ledger", str(path))  # compiles what has not been yet
        usable, after, held, times, of_ledger = [], [], [], [], []
        for _ in range(ROUNDS):
            (empty,), (with_ledger,) = told_by(EMPTY), told_by(WITH_LEDGER)
            mine, later, megabytes = told_by(OURS, "--ledger", str(path), stays=AFTER_SECONDS)
            usable.append(mine)
            after.append(later)
            held.append(megabytes)
            times.append(mine / empty)
            of_ledger.append(mine / with_ledger)
        print(
            f"window usable after {statistics.median(usable):.2f} CPU·s: "
            f"{statistics.median(of_ledger):.2f} × an empty one that can read a ledger"
        )
        measured(
            "window usable, by CPU, × an empty main window", statistics.median(times), 4.5, "{:.1f}"
        )
        measured("CPU·s of the window in the 15 s after", statistics.median(after), 0.4)
        measured("MB held when the window is usable", statistics.median(held), 120.0, "{:.0f}")
        fill(path)
        # The first loads what a window that is up has loaded.
        opened = [cpu_seconds(open_with_its_book, path) for _ in range(1 + ROUNDS)][1:]
        measured(
            "CPU·s to open a ledger of 1,000 boots with its book", statistics.median(opened), 0.5
        )


if __name__ == "__main__":
    main()
