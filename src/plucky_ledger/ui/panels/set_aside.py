"""The reason for setting a boot aside."""

from PySide6.QtWidgets import QLineEdit

from plucky_ledger.core.boots.boot import Boot
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.ui.desk import Desk
from plucky_ledger.ui.panels.panel import Panel
from plucky_ledger.usecases.recording.boots import set_boot_aside
from plucky_ledger.wording.figures import day_and_time
from plucky_ledger.wording.language import say


class SetAsidePanel(Panel):
    """Why a boot is left out of the account."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(say("Set a boot aside"))
        self._desk = desk
        self._boot: Boot | None = None
        self.reason = QLineEdit()
        self.reason.setPlaceholderText(say("such as: updates were installing"))
        self.reason.setAccessibleName(say("Reason"))
        self.body.addWidget(self.reason)
        self.body.addStretch(1)
        leave = self.add_button(say("Cancel"))
        leave.clicked.connect(self.leave)
        self.keep_button = self.add_button(say("Set it aside"), main=True)
        self.keep_button.clicked.connect(self.keep)

    def begin(self, boot: Boot) -> None:
        """Ask for the reason."""
        self._boot = boot
        self.reason.clear()
        self.refuse(None)
        self.retitle(
            say("Set a boot aside"),
            say(
                "The boot of {when} stays in the ledger, but out of the account. Say why; it can "
                "be brought back at any time.",
                when=day_and_time(boot.started_at),
            ),
        )
        self.reason.setFocus()

    def keep(self) -> None:
        """Set it aside."""
        job, boot, reason = self._desk.job, self._boot, self.reason.text()
        if not reason.strip():
            self.refuse(Refused(TroubleCode.NO_REASON_FOR_BOOT))
        elif job is not None and boot is not None:
            number, boot_number = job.number, boot.number
            self._desk.do(
                lambda ledger: set_boot_aside(ledger, number, boot_number, reason),
                lambda _none: self.leave(),
            )
