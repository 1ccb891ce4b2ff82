"""Go through the installed commands, and the window, as they come out of the wheel.

Run by the Python of an environment that holds nothing but the wheel, from outside the checkout:
``try_installed.py base LEDGER`` without any extra, on a ledger with the demo that was written
elsewhere; ``try_installed.py window`` with all of them, and how large each install is.
"""

import compileall
import json
import os
import shutil
import subprocess
import sys
import tempfile
from importlib.metadata import distribution
from importlib.util import cache_from_source
from pathlib import Path

COMMAND = Path(sys.executable).with_name("plucky-ledger")
BARE = {**os.environ, "QT_QPA_PLATFORM": "offscreen", "TZ": "UTC"}


MOST_MEGABYTES = {"": 75.0, "window": 400.0, "all": 520.0}
"""Of everything an extra installs besides pip and setuptools: without any, a customer's PC."""


def megabytes(extra: str) -> float:
    """Size of what an extra installs, the base with it, in 10^6 bytes of files: compiled, as pip
    leaves it where it is not asked to be quick.
    """
    from packaging.requirements import Requirement

    names, left = set(), [("plucky-ledger", extra)]
    files: set[Path] = set()
    while left:
        name, wanted = left.pop()
        if (name, wanted) in names:
            continue
        names.add((name, wanted))
        installed = distribution(name)
        found = {Path(str(installed.locate_file(file))) for file in installed.files or ()}
        files |= {*found, *map(compiled, found)}
        for text in installed.requires or ():
            needed = Requirement(text)
            if needed.marker is None or needed.marker.evaluate({"extra": wanted}):
                left += [(needed.name, one) for one in ("", *needed.extras)]
    return sum(file.stat().st_size for file in files if file.is_file()) / 1e6


def compiled(file: Path) -> Path:
    """What Python makes of a file of code; the file itself where it is none."""
    if file.suffix != ".py":
        return file
    compileall.compile_file(file, quiet=2)
    return Path(cache_from_source(str(file)))


def run(*arguments: object, status: int = 0, says: str = "") -> str:
    """A command's output; it has to end with ``status`` and say ``says``."""
    words = [str(COMMAND), *map(str, arguments)]
    done = subprocess.run(words, capture_output=True, text=True, env=BARE, check=False)
    told = done.stdout + done.stderr
    assert done.returncode == status, f"{words}: {done.returncode}\n{told}"
    assert says in told, f"{words} does not say {says!r}:\n{told}"
    assert "Traceback" not in told, told
    print("ok", *arguments[:2])
    return done.stdout


def try_base(folder: Path) -> None:
    """The recorder and the command line, without Qt, NumPy and WeasyPrint."""
    for package in ("PySide6", "numpy", "weasyprint", "zstandard"):
        told = subprocess.run(
            [sys.executable, "-c", f"import {package}"], capture_output=True, check=False
        )
        assert told.returncode != 0, f"{package} is installed: nothing would be shown"
    ledger, boot = folder / "demo.ledger", folder / "boot.jsonl.gz"
    shutil.copy(sys.argv[2], ledger)
    run("jobs", "--ledger", ledger, says="Ticket-desk PC")
    run("book", "0417", "--ledger", ledger, says="Switched off 5 sign-in programs")
    run("compare", "0417", "--ledger", ledger, says="The whole job")
    run("decide", "0417", "Brassrail Till", "off", "--ledger", ledger, says="Brassrail Till")
    run("undo", "0417", "--ledger", ledger, says="Undone")
    run("post", "0417", "--ledger", ledger, says="restart the PC")
    run("put-back", "0417", "--everything", "--ledger", ledger)
    run("record", "--for", 1, "--out", boot)
    assert boot.stat().st_size > 1_000
    run("stick", folder / "stick", says="is written")
    stick = ["sh", str(folder / "stick/plucky-ledger-stick"), "--record-now", "5"]
    told = subprocess.run(stick, capture_output=True, text=True, check=True).stdout
    assert "On the stick now: 1" in told, told
    run("take-in", "Quay PC", "--this-pc", "--label", "77", "--ledger", ledger)
    run("arm", "77", "--autostart", "--ledger", ledger)
    run("disarm", "77", "--ledger", ledger, says="every trace is removed")
    missing = "is not installed. Install it with"
    run("entries", "0417", "--line", 0, "--ledger", ledger, says="the package numpy is missing")
    for command in ("why", "load"):
        run(command, "0417", "--ledger", ledger, status=1, says=f"numpy {missing}")
    run("import", boot, "--ledger", ledger, status=1, says=f"numpy {missing}")
    out = folder / "s.pdf"
    run("statement", "0417", "--out", out, "--ledger", ledger, status=1, says=missing)
    run("--ledger", ledger, status=1, says=f"PySide6 {missing}")


def try_window(folder: Path) -> None:
    """What the extras add: costs, the statement, and the window with every lens."""
    ledger = folder / "demo.ledger"
    run("demo-ledger", ledger)
    run("entries", "0417", "--line", 0, "--ledger", ledger, says="Saltmarsh Backup")
    run("load", "0417", "--line", 0, "--ledger", ledger, says="harbour-guard")
    boot = folder / "boot.jsonl.gz"
    run("record", "--for", 1, "--out", boot)
    run("import", boot, "--ledger", ledger)
    assert len(json.loads(run("jobs", "--json", "--ledger", ledger))["answer"]) == 3
    for name in ("s.html", "s.pdf"):
        run("statement", "0417", "--out", folder / name, "--ledger", ledger)
        assert (folder / name).stat().st_size > 4000
    os.environ.update(BARE)
    from PySide6.QtCore import QElapsedTimer
    from PySide6.QtWidgets import QApplication

    from plucky_ledger.ui.app import open_window
    from plucky_ledger.ui.lenses.registry import LensName
    from plucky_ledger.ui.theme import dress

    app = QApplication([])
    dress(app)
    window = open_window(ledger)
    window.show()
    clock = QElapsedTimer()
    clock.start()
    while not (window.desk.boot and window.desk.analysis(window.desk.boot)):
        app.processEvents()
        assert clock.elapsed() < 60_000, "the demo never opened"
    for lens in LensName:
        window.right.show_lens(lens)
        while lens is LensName.ENTRIES and not window.right.entries.ready:
            app.processEvents()
            assert clock.elapsed() < 120_000, "the costs never came"
        image = window.right.shown.grab().toImage()
        colours = {
            image.pixel(x, y)
            for x in range(0, image.width(), 9)
            for y in range(0, image.height(), 7)
        }
        assert len(colours) > 8, lens
        print("ok window", lens)
    window.close()
    for extra, most in MOST_MEGABYTES.items():
        size = megabytes(extra)
        print(f"{extra or 'base'}: {size:.1f} MB installed, {most:.0f} at most")
        assert size <= most, extra


if __name__ == "__main__":
    import plucky_ledger

    assert "site-packages" in plucky_ledger.__file__, plucky_ledger.__file__
    with tempfile.TemporaryDirectory() as place:
        for variable in ("XDG_DATA_HOME", "XDG_STATE_HOME", "XDG_CONFIG_HOME"):
            BARE[variable] = place
        {"base": try_base, "window": try_window}[sys.argv[1]](Path(place))
