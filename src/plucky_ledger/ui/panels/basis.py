"""What a figure rests on, with the way to its method."""

from PySide6.QtCore import Signal

from plucky_ledger.ui.panels.panel import Panel
from plucky_ledger.ui.text import Text
from plucky_ledger.wording.basis import Basis
from plucky_ledger.wording.language import say


class BasisPanel(Panel):
    """The boots, the method, and the section of the method pages.

    Signals:
        method_wanted(str): the method is to be read, at this section.
    """

    method_wanted = Signal(str)

    def __init__(self) -> None:
        super().__init__(say("What it is based on"))
        self._section = ""
        self.words = Text()
        self.words.setWordWrap(True)
        self.body.addWidget(self.words)
        self.body.addStretch(1)
        self.method_button = self.add_button("")
        self.method_button.clicked.connect(lambda: self.method_wanted.emit(self._section))
        leave = self.add_button(say("Back"), main=True)
        leave.clicked.connect(self.leave)

    def begin(self, basis: Basis) -> None:
        """Show what a figure rests on."""
        self._section = basis.section
        self.retitle(basis.title, say("What it is based on."))
        self.words.setText("\n\n".join(basis.sentences))
        self.method_button.setText(say("The method: {section}", section=basis.section))
