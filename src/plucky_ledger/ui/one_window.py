"""One window a ledger: a second start on the same raises the first, and hands over what to open.

By the session's bus. Desktop Entry Specification, "D-Bus Activation"; org.freedesktop.Application.
"""

import hashlib
import logging
import os
from collections.abc import Sequence
from pathlib import Path

from PySide6.QtCore import ClassInfo, QObject, Qt, Slot
from PySide6.QtDBus import QDBus, QDBusConnection, QDBusMessage

from plucky_ledger.ui.window import Window

INTERFACE = "org.freedesktop.Application"
PLACE = "/example/pluckyledger/PluckyLedger"
NAME = "example.pluckyledger.Ledger"
TOKEN, TOKEN_SAID = "XDG_ACTIVATION_TOKEN", "activation-token"
"""What allows a window to come to the front, and what it is called on the bus."""
ANSWERS_WITHIN_MILLISECONDS = 10_000
log = logging.getLogger(__name__)


@ClassInfo({"D-Bus Interface": INTERFACE})  # type: ignore[call-arg]
class OneWindow(QObject):  # type: ignore[operator]
    """What other starts reach on the bus; they are answered once the window is up."""

    def __init__(self, ledger: Path) -> None:
        super().__init__()
        self._name = f"{NAME}.l{hashlib.sha256(os.fsencode(ledger.absolute())).hexdigest()[:16]}"
        self._bus = QDBusConnection.sessionBus()
        self.window: Window | None = None

    def handed_over(self, files: Sequence[Path]) -> bool:
        """Whether a window on this ledger is up already: then it comes to the front with them.

        Where there is none, or it does not answer, or no bus, this is to be the one.
        """
        if not self._bus.isConnected():
            return False
        slots = QDBusConnection.RegisterOption.ExportAllSlots
        self._bus.registerObject(PLACE, self, slots)
        if self._bus.registerService(self._name):
            return False
        call = QDBusMessage.createMethodCall(self._name, PLACE, INTERFACE, "Open")
        said = {TOKEN_SAID: os.environ[TOKEN]} if TOKEN in os.environ else {}
        call.setArguments([[str(path.absolute()) for path in files], said])
        answer = self._bus.call(call, QDBus.CallMode.Block, ANSWERS_WITHIN_MILLISECONDS)
        return bool(answer.type() == QDBusMessage.MessageType.ReplyMessage)

    @Slot("QVariantMap")
    def Activate(self, said: dict[str, object]) -> None:
        """Come to the front."""
        if token := said.get(TOKEN_SAID):
            os.environ[TOKEN] = str(token)
        if (window := self.window) is not None:
            window.setWindowState(window.windowState() & ~Qt.WindowState.WindowMinimized)
            window.show()
            window.raise_()
            window.activateWindow()

    @Slot("QStringList", "QVariantMap")
    def Open(self, files: list[str], said: dict[str, object]) -> None:
        """Come to the front, and open recordings and jobs."""
        log.info("another start hands over %d files", len(files))
        self.Activate(said)
        if self.window is not None:
            self.window.open_files([Path(file) for file in files])
