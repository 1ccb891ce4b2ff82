"""Qt's messages: written to the log; one that ends the program is told in a sentence first."""

import logging
import os
import sys

from PySide6.QtCore import QCoreApplication, QMessageLogContext, QtMsgType, qInstallMessageHandler

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


def keep_qts_messages() -> None:
    """Have Qt's messages come here from now on."""
    told: list[str] = []

    def take(kind: QtMsgType, _context: QMessageLogContext, text: str) -> None:
        log.log(_LEVELS.get(kind, logging.WARNING), "%s", text)
        told.append(text)
        del told[:-20]
        # Without a window yet, Qt aborts because it cannot open one.
        if kind is QtMsgType.QtFatalMsg and QCoreApplication.instance() is None:
            lacks = None if NO_DISPLAY in " ".join(told) else library_missing()
            sys.stderr.write(f"{trouble_in_words(lacks or display_unreachable())}\n")
            sys.stderr.flush()
            os._exit(1)

    qInstallMessageHandler(take)
