"""Opening a ledger that a workshop shares on a server."""

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QLineEdit

from plucky_ledger.core.values.trouble import Refused, Trouble, TroubleCode
from plucky_ledger.ui.panels.panel import Panel, form
from plucky_ledger.usecases.jobs.opening import address_of
from plucky_ledger.wording.language import say

EXAMPLE = "postgresql://name@bench.example/workshop"


class WorkshopPanel(Panel):
    """Where it is; it opens in a window of its own, which asks for the password.

    Signals:
        open_wanted(Address): it is to be opened.
    """

    open_wanted = Signal(object)

    def __init__(self) -> None:
        super().__init__(
            say("Open a workshop's ledger"),
            say(
                "Several benches write in one ledger on a server, each in a job of its own. "
                "Whoever set it up knows its address. Leave the password out: it is asked for, or "
                "taken from the desktop's secret store."
            ),
        )
        self.address = QLineEdit()
        self.address.setPlaceholderText(EXAMPLE)
        self.address.setAccessibleName(say("Address"))
        rows = form()
        rows.addRow(say("Address"), self.address)
        self.body.addLayout(rows)
        self.body.addStretch(1)
        self.add_button(say("Cancel")).clicked.connect(self.leave)
        self.open_button = self.add_button(say("Open"), main=True)
        self.open_button.clicked.connect(self.open)

    def begin(self) -> None:
        """What was typed last stays."""
        self.refuse(None)
        self.address.setFocus()

    def open(self) -> None:
        """Open it."""
        try:
            address = address_of(self.address.text().strip())
            if address.file is not None:
                raise Refused(TroubleCode.LEDGER_KIND_UNKNOWN, address=address.text or "–")
        except Trouble as trouble:
            self.refuse(trouble)
            return
        self.open_wanted.emit(address)
        self.leave()
