"""Text in widgets: plain as it is, or our own markup, never guessed at.

What comes from a customer's PC could look like markup, and Qt would load and draw what it names.
"""

from html import escape
from typing import TYPE_CHECKING

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QLabel, QPushButton, QSizePolicy, QWidget

if TYPE_CHECKING:
    _Widget = QWidget
else:  # what is mixed into a widget is none of its own
    _Widget = object


class Text(QLabel):
    """Text as it is: nothing in it is markup."""

    def __init__(self, text: str = "") -> None:
        super().__init__(text)
        self.setTextFormat(Qt.TextFormat.PlainText)


class _CutToRoom(_Widget):
    """One line that is cut where there is no room for all of it: then it is whole in its tip."""

    _text = ""

    def show_text(self, text: str) -> None:
        """Show another text."""
        self._text = text
        self.setAccessibleName(text)
        self.setToolTip(tip(text))
        self.updateGeometry()
        self._fit()

    def minimumSizeHint(self) -> QSize:
        return QSize(0, super().minimumSizeHint().height())

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Cut anew."""
        super().resizeEvent(event)
        self._fit()

    def _cut(self, room: int) -> str:
        return self.fontMetrics().elidedText(self._text, Qt.TextElideMode.ElideRight, room)

    def _fit(self) -> None:
        raise NotImplementedError


class Elided(_CutToRoom, QLabel):
    """One line of text at the right."""

    FEWEST = 10
    """Characters below which nothing is shown of a text that does not fit."""

    def __init__(self) -> None:
        super().__init__()
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)

    def _fit(self) -> None:
        metrics, room = self.fontMetrics(), self.width() - 12
        fits = metrics.horizontalAdvance(self._text) <= room
        enough = fits or room >= metrics.averageCharWidth() * self.FEWEST
        self.setText(self._cut(room) if enough else "")


class FoldButton(_CutToRoom, QPushButton):
    """Opens and closes what is folded away."""

    def __init__(self) -> None:
        super().__init__()
        self.setCheckable(True)
        self.setProperty("fold", True)
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)

    def _fit(self) -> None:
        self.setText(self._cut(self.width() - 10))

    def sizeHint(self) -> QSize:
        wide = self.fontMetrics().horizontalAdvance(self._text) + 14
        return QSize(wide, super().sizeHint().height())


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
