"""Text in widgets: plain as it is, or our own markup, never guessed at.

What comes from a customer's PC could look like markup, and Qt would load and draw what it names.
"""

from html import escape

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLabel


class Text(QLabel):
    """Text as it is: nothing in it is markup."""

    def __init__(self, text: str = "") -> None:
        super().__init__(text)
        self.setTextFormat(Qt.TextFormat.PlainText)


class Marked(QLabel):
    """Text with our own markup; whatever else is in it was escaped."""

    def __init__(self, markup: str = "") -> None:
        super().__init__(markup)
        self.setTextFormat(Qt.TextFormat.RichText)


def paragraph(markup: str, quiet: bool = False) -> Marked:
    """Text with our own markup over several lines; in pencil where it is quiet."""
    text = Marked(markup)
    text.setWordWrap(True)
    text.setProperty("quiet", quiet)
    return text


def tip(text: str) -> str:
    """Text for a tool tip, which is drawn as it is."""
    lines = escape(text).replace("\n", "<br>")
    return f"<qt>{lines}</qt>" if text else ""
