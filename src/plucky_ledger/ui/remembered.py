"""The window as it was left: its place and size, how wide the book is, and the lens in use."""

from PySide6.QtCore import QByteArray, QSettings, QSize
from PySide6.QtGui import QGuiApplication

from plucky_ledger.ui.lenses.registry import LensName
from plucky_ledger.ui.theme import settings
from plucky_ledger.ui.window import Window

GEOMETRY, BOOK, LENS = "window", "book", "lens"


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


def keep(window: Window) -> None:
    """For the next start."""
    kept = settings()
    kept.setValue(GEOMETRY, window.saveGeometry())
    kept.setValue(BOOK, window.pages.saveState())
    kept.setValue(LENS, window.right.lens.value)


def _lens(kept: QSettings) -> LensName | None:
    named = str(kept.value(LENS, ""))
    return next((lens for lens in LensName if lens.value == named), None)
