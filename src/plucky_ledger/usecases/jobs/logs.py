"""The program's log: one rotating file in the user's state folder."""

import logging
import logging.handlers
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from plucky_ledger.linux.files import is_somebody_elses, make_folder

LARGEST_BYTES = 1_000_000
KEPT_FILES = 3
_FORM = "%(asctime)s %(levelname)s %(name)s: %(message)s"


def start_logging(folder: Path) -> Path:
    """Write the program's log into ``folder`` from now on; returns the file.

    A log that cannot be written is no reason not to work: what it would have held goes to the
    standard error as it would without one. The administrator writes none in a user's folder.
    """
    file = folder / "plucky-ledger.log"
    root = logging.getLogger("plucky_ledger")
    if root.level == logging.NOTSET:
        root.setLevel(logging.INFO)
    stop_logging()
    try:
        make_folder(folder)
        if is_somebody_elses(folder):
            return file
        handler = _Handler(
            file, maxBytes=LARGEST_BYTES, backupCount=KEPT_FILES, encoding="utf-8", delay=True
        )
    except OSError as error:
        root.warning("no log can be kept in %s: %s", folder, error.strerror)
        return file
    handler.setFormatter(logging.Formatter(_FORM))
    root.addHandler(handler)
    return file


def use_level(level: str) -> None:
    """Write down from now on what is of this level, such as "debug", or more important."""
    logging.getLogger("plucky_ledger").setLevel(level.upper())


class _Handler(logging.handlers.RotatingFileHandler):
    def handleError(self, record: logging.LogRecord) -> None:
        """A full disk, say: the work goes on without that line."""


@contextmanager
def logging_into(folder: Path) -> Iterator[None]:
    """Write the program's log into ``folder`` for a while."""
    start_logging(folder)
    try:
        yield
    finally:
        stop_logging()


def stop_logging() -> None:
    """Close the log."""
    root = logging.getLogger("plucky_ledger")
    for handler in list(root.handlers):
        root.removeHandler(handler)
        handler.close()
