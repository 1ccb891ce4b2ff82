"""What is read out because it changed by itself."""

import time

from PySide6.QtGui import QAccessible, QAccessibleAnnouncementEvent
from PySide6.QtWidgets import QWidget

READ_OUT_EVERY_SECONDS = 10.0
"""How often figures are read out that change all the time."""


def announce(widget: QWidget, text: str, at_once: bool = False) -> None:
    """Have something read out: after what is being said, or at once."""
    if text and QAccessible.isActive():
        event = QAccessibleAnnouncementEvent(widget, text)
        politeness = QAccessible.AnnouncementPoliteness
        event.setPoliteness(politeness.Assertive if at_once else politeness.Polite)
        QAccessible.updateAccessibility(event)


class Announcer:
    """Has figures read out that change all the time: not again before a while has passed."""

    def __init__(self, widget: QWidget, every_seconds: float) -> None:
        self._widget = widget
        self._every_seconds = every_seconds
        self._said, self._said_at = "", 0.0

    def tell(self, text: str) -> None:
        """Have it read out, if it is new and the last was long enough ago."""
        if text != self._said and time.monotonic() - self._said_at >= self._every_seconds:
            self._said, self._said_at = text, time.monotonic()
            announce(self._widget, text)
