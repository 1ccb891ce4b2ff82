"""The line at the foot of the window for what is said of the moment: it moves nothing."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QResizeEvent, QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from plucky_ledger.ui.accessible.announcing import announce
from plucky_ledger.ui.door import Message
from plucky_ledger.ui.text import Text
from plucky_ledger.wording.language import say


class MessageLine(QWidget):
    """One message on one line, until the next action; what is longer is read in its details.

    Signals:
        details_wanted(str): all of it is to be read.
    """

    details_wanted = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("message")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.message = Message("")
        self._text = Text()
        self.details_button = QPushButton(say("Details"))
        self.details_button.setProperty("flat", True)
        self.details_button.clicked.connect(lambda: self.details_wanted.emit(self.message.text))
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 3, 16, 3)
        row.addWidget(self._text, 1)
        row.addWidget(self.details_button)
        self.show_message(self.message)

    def show_message(self, message: Message) -> None:
        """Say it; an empty one clears the line."""
        self.message = message
        self.setProperty("said", bool(message.text))
        self._text.setProperty("bad", message.bad)
        for widget in (self, self._text):
            widget.style().polish(widget)
        self._text.setAccessibleName(message.text)
        announce(self._text, message.text, at_once=message.bad)
        self._fit()

    def clear(self) -> None:
        """The moment is over."""
        if self.message.text:
            self.show_message(Message(""))

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        # As high as with its button, whether that is there or not.
        self.setFixedHeight(
            max(self._text.sizeHint().height(), self.details_button.sizeHint().height()) + 6
        )

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        """As much as there is room for, on one line."""
        whole = " ".join(self.message.text.split())
        whole = f"! {whole}" if self.message.bad else whole
        room = self.width() - 2 * 16 - self.details_button.sizeHint().width() - 12
        short = self._text.fontMetrics().elidedText(whole, Qt.TextElideMode.ElideRight, room)
        self._text.setText(short)
        self.details_button.setVisible(short != whole)
