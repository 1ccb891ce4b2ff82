"""Qt's messages: written to the log; one that ends the program is told in a sentence first."""

import logging
import os
import sys

from PySide6.QtCore import QMessageLogContext, QtMsgType, qInstallMessageHandler

from plucky_ledger.usecases.jobs.display import display_unreachable, library_missing
from plucky_ledger.wording.trouble import trouble_in_words

NO_DISPLAY = "could not connect to display"
log = logging.getLogger("plucky_ledger.qt")
_LEVELS = {
    QtMsgType.QtDebugMsg: logging.DEBUG,
    QtMsgType.QtInfoMsg: logging.INFO,
    QtMsgType.QtWarningMsg: logging.WARNING,
    QtMsgType.QtCriticalMsg: logging.ERROR,
    QtMsgType.QtFatalMsg: logging.CRITICAL,
}


class QtMessages:
    """Takes Qt's messages from now on."""

    def __init__(self) -> None:
        self.has_display = False
        """A window can be opened: before, Qt aborts where it cannot."""
        self._told: list[str] = []
        qInstallMessageHandler(self._take)

    def _take(self, kind: QtMsgType, _context: QMessageLogContext, text: str) -> None:
        log.log(_LEVELS.get(kind, logging.WARNING), "%s", text)
        if self.has_display:
            return
        self._told.append(text)
        if kind is QtMsgType.QtFatalMsg:
            lacks = None if NO_DISPLAY in " ".join(self._told) else library_missing()
            sys.stderr.write(f"{trouble_in_words(lacks or display_unreachable())}\n")
            sys.stderr.flush()
            os._exit(1)
