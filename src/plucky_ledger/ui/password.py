"""The password for a server's ledger, asked for before its window opens."""

from PySide6.QtWidgets import (
    QCheckBox,
    QDialog,
    QDialogButtonBox,
    QLineEdit,
    QVBoxLayout,
)

from plucky_ledger.ui.text import Text
from plucky_ledger.usecases.jobs.opening import Address
from plucky_ledger.usecases.jobs.shared_ledger import keep_secret, use_secret
from plucky_ledger.wording.language import say


class PasswordDialog(QDialog):
    """Asks once; it is used until the program ends, and kept where that is wanted."""

    def __init__(self, address: Address, said: str) -> None:
        super().__init__()
        self._address = address
        self.setWindowTitle(say("Password"))
        words = Text(said)
        words.setWordWrap(True)
        self.password = QLineEdit()
        self.password.setEchoMode(QLineEdit.EchoMode.Password)
        self.password.setAccessibleName(say("Password"))
        self.keep = QCheckBox(say("Keep it in the desktop's secret store"))
        buttons = QDialogButtonBox(
            QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel
        )
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        layout = QVBoxLayout(self)
        for part in (words, self.password, self.keep, buttons):
            layout.addWidget(part)

    def accept(self) -> None:
        """Use what was typed."""
        use_secret(self._address, self.password.text())
        if self.keep.isChecked():
            keep_secret(self._address, self.password.text())
        super().accept()
