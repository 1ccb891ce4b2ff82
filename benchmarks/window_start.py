"""How soon the window is usable with the demo ledger, against windows with nothing in them.

One has PySide6 alone, the other has also loaded what reads a ledger and computes (SQLAlchemy,
NumPy). All are started as fresh programs in turns, offscreen; usable means that the book and the
lanes of its newest opening boot have been painted. Then how long a ledger of 1,000 boots takes to
open.
"""

import os
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path
from uuid import uuid4

from sqlalchemy import insert, select

from plucky_ledger.core.values.measures import Measure
from plucky_ledger.pages.book import book_page
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.tables.jobs import BootRow
from plucky_ledger.usecases.jobs.demo import write_demo
from plucky_ledger.usecases.jobs.jobs import read_jobs

ROUNDS = 7
BOOTS = 1_000
EMPTY = """
from PySide6.QtWidgets import QApplication, QMainWindow
app = QApplication([])
window = QMainWindow()
window.resize(1280, 800)
window.show()
app.processEvents()
window.grab()
import time
print(time.time(), 0)
"""
WITH_LEDGER = "import numpy, sqlalchemy.orm" + EMPTY
OURS = """
import os
import gc
gc.set_threshold(1_000_000)  # as the installed command does
import sys
from pathlib import Path
from uuid import uuid4
from plucky_ledger.ui.app import open_window
from plucky_ledger.ui.theme import dress
from PySide6.QtWidgets import QApplication
app = QApplication([])
dress(app)
window = open_window(Path(sys.argv[1]))
window.show()
while window.desk.analysis(window.desk.boot) is None or window.right.lanes.canvas.page is None:
    app.processEvents()
window.grab()
import time
pages = int(Path("/proc/self/statm").read_text().split()[1])
print(time.time(), pages * os.sysconf("SC_PAGE_SIZE") / 1e6)
window.close()
"""


def seconds_of(program: str, *arguments: str) -> tuple[float, float]:
    """How long a fresh program takes until it says that it is usable, and what it holds then: how
    long it takes to end is nobody's wait.
    """
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    # An installed program is compiled: else all of ours would be read as source, and nothing else.
    environment.pop("PYTHONDONTWRITEBYTECODE", None)
    begin = time.time()
    done = subprocess.run(
        [sys.executable, "-c", program, *arguments],
        env=environment,
        check=True,
        stdout=subprocess.PIPE,
        stderr=subprocess.DEVNULL,
        text=True,
    )
    usable, megabytes = map(float, done.stdout.split())
    return usable - begin, megabytes


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


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "demo.ledger"
        write_demo(path, lambda _done, _total: True)
        seconds_of(OURS, str(path))  # compiles what has not been yet
        ours, empty, with_ledger = [], [], []
        for _ in range(ROUNDS):
            empty.append(seconds_of(EMPTY)[0])
            with_ledger.append(seconds_of(WITH_LEDGER)[0])
            took, held = seconds_of(OURS, str(path))
            ours.append(took)
        mine, bare, base = map(statistics.median, (ours, empty, with_ledger))
        print(
            f"window usable after {mine:.2f} s, an empty one that can read a ledger after "
            f"{base:.2f} s: ratio {mine / base:.2f} (goal ≤ 2.0); an empty one of PySide6 alone "
            f"after {bare:.2f} s: ratio {mine / bare:.2f}; it holds {held:.0f} MB then "
            "(goal ≤ 160)"
        )
        fill(path)
        begin = time.perf_counter()
        with Ledger(path) as ledger:
            job, *_ = read_jobs(ledger)
            book_page(job, Measure.SETTLED)
            opened = time.perf_counter() - begin
        begin = time.perf_counter()
        book_page(job, Measure.READY)
        kept = time.perf_counter() - begin
        print(f"ledger of {BOOTS} boots: open with its book in {opened * 1e3:.0f} ms (goal ≤ 500)")
        print(f"  kept in another measure in {kept * 1e3:.0f} ms")


if __name__ == "__main__":
    main()
