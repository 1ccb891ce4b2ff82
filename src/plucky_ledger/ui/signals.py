"""Signals that ask the window to close, taken as closing it by hand."""

import signal
import socket

from PySide6.QtCore import QSocketNotifier
from PySide6.QtWidgets import QWidget

CLOSE = (signal.SIGINT, signal.SIGTERM, signal.SIGHUP)


class ClosesOnSignals(QSocketNotifier):
    """Closes ``window`` when Ctrl+C is pressed in its terminal, or whoever started it ends it.

    Python runs handlers only between its own instructions, and Qt's loop is none: what Python
    writes for every signal wakes the loop.
    """

    def __init__(self, window: QWidget) -> None:
        self._read, self._written = socket.socketpair()
        super().__init__(self._read.fileno(), QSocketNotifier.Type.Read, window)
        for end in (self._read, self._written):
            end.setblocking(False)
        signal.set_wakeup_fd(self._written.fileno(), warn_on_full_buffer=False)
        for number in CLOSE:
            if signal.getsignal(number) != signal.SIG_IGN:
                signal.signal(number, lambda *_: None)
        self._window = window
        self.activated.connect(self._close)

    def _close(self) -> None:
        if any(number in CLOSE for number in self._read.recv(64)):
            self._window.close()
