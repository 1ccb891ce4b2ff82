"""All of a message that is too long for its line."""

from plucky_ledger.ui.panels.panel import Panel
from plucky_ledger.ui.text import Text
from plucky_ledger.wording.language import say


class DetailsPanel(Panel):
    """What was said, whole."""

    def __init__(self) -> None:
        super().__init__(say("What was said"))
        self.words = Text()
        self.words.setWordWrap(True)
        self.body.addWidget(self.words)
        self.body.addStretch(1)
        leave = self.add_button(say("Back"), main=True)
        leave.clicked.connect(self.leave)

    def begin(self, words: str, title: str = "") -> None:
        """Show what was said."""
        self.retitle(title or say("What was said"), "")
        self.words.setText(words)
