"""Searching for a program in the user's own browser, only when asked."""

from PySide6.QtCore import QUrl
from PySide6.QtGui import QDesktopServices

from plucky_ledger.ui.desk import Desk
from plucky_ledger.usecases.reading.search import address_for


def open_search(desk: Desk, name: str) -> None:
    """Open the workshop's search address for a program; it says so where none is set."""
    desk.executor.ask("search", lambda: address_for(desk.ledger, name), _open)


def _open(address: str) -> None:
    QDesktopServices.openUrl(QUrl(address, QUrl.ParsingMode.StrictMode))
