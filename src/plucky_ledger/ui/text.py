"""Text in widgets: plain as it is, or our own markup, never guessed at.

What comes from a customer's PC could look like markup, and Qt would load and draw what it names.
"""

from html import escape
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QSize, Qt
from PySide6.QtGui import QHelpEvent, QResizeEvent
from PySide6.QtWidgets import QLabel, QPushButton, QSizePolicy, QToolTip, QWidget

from plucky_ledger.ui.theme import scaled_font

if TYPE_CHECKING:
    from plucky_ledger.ui.accessible.faces import Face

    _Widget = QWidget
else:  # what is mixed into a widget is none of its own
    _Widget = object


SMALL = 0.82
"""Size of small print beside that of other text."""


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
        self.updateGeometry()
        self._fit()

    def minimumSizeHint(self) -> QSize:
        return QSize(0, super().minimumSizeHint().height())

    def event(self, event: QEvent) -> bool:
        """Show all of it; it is no explanation, which would be read out after the name."""
        if isinstance(event, QHelpEvent) and event.type() is QEvent.Type.ToolTip:
            QToolTip.showText(event.globalPos(), tip(self._text), self)
            return True
        return super().event(event)

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

        self.toggled.connect(self._fit)

    @property
    def _signed(self) -> str:
        return f"{'▾' if self.isChecked() else '▸'} {self._text}"

    def _fit(self) -> None:
        room = self.width() - 10
        self.setText(self.fontMetrics().elidedText(self._signed, Qt.TextElideMode.ElideRight, room))

    def sizeHint(self) -> QSize:
        wide = self.fontMetrics().horizontalAdvance(self._signed) + 14
        return QSize(wide, super().sizeHint().height())

    def make_face(self) -> "Face":
        """What assistive programs are told of it."""
        from plucky_ledger.ui.accessible.choices import FoldFace

        return FoldFace(self)


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


def small(markup: str) -> str:
    """Our own markup in small print, no smaller than can be read."""
    return f'<span style="font-size:{scaled_font(SMALL).pointSizeF():.1f}pt">{markup}</span>'


def explain(widget: QWidget, text: str) -> None:
    """What a widget does, for who points at it and for who has it read out."""
    widget.setToolTip(tip(text))
    widget.setAccessibleDescription(text)


def tip(text: str) -> str:
    """Text for a tool tip, which is drawn as it is."""
    lines = escape(text).replace("\n", "<br>")
    return f"<qt>{lines}</qt>" if text else ""
