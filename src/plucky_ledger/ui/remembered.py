"""The window as it was left: its place and size, how wide the book is, and the lens in use."""

from hashlib import sha256
from pathlib import Path

from PySide6.QtCore import QByteArray, QSettings, QSize
from PySide6.QtGui import QGuiApplication

from plucky_ledger.ui.lenses.registry import LensName
from plucky_ledger.ui.theme import settings
from plucky_ledger.ui.window import Window

GEOMETRY, BOOK, LENS, JOB = "window", "book", "lens", "job"


def put_back(window: Window) -> None:
    """As it was left; the first time as large as it likes, where the screen is."""
    kept = settings()
    place = kept.value(GEOMETRY)
    if not (isinstance(place, QByteArray) and window.restoreGeometry(place)):
        screen = QGuiApplication.primaryScreen()
        room = screen.availableSize() if screen is not None else window.sizeHint()
        window.resize(window.sizeHint().boundedTo(room - QSize(0, 32)))
    width = kept.value(BOOK)
    if isinstance(width, QByteArray):
        window.pages.restoreState(width)
    lens = _lens(kept)
    if lens is not None:
        window.right.show_lens(lens)


def last_job(path: Path) -> int | None:
    """Number of the job that was open when this ledger was left; None for none."""
    number = str(settings().value(_job_key(path), ""))
    return int(number) if number.isdecimal() else None


def _job_key(path: Path) -> str:
    return f"{JOB}/{sha256(str(path.absolute()).encode()).hexdigest()[:16]}"


def keep(window: Window) -> None:
    """For the next start."""
    kept = settings()
    desk = window.desk
    kept.setValue(_job_key(desk.ledger.path), desk.job.number if desk.job is not None else "")
    kept.setValue(GEOMETRY, window.saveGeometry())
    kept.setValue(BOOK, window.pages.saveState())
    kept.setValue(LENS, window.right.lens.value)


def _lens(kept: QSettings) -> LensName | None:
    named = str(kept.value(LENS, ""))
    return next((lens for lens in LensName if lens.value == named), None)
