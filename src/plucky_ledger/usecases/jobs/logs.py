"""The program's log: one rotating file in the user's state folder."""

import logging
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

from plucky_ledger.linux.files import is_somebody_elses, make_folder

OURS = "plucky_ledger"
"""The logger above all of this program's."""
LARGEST_BYTES = 1_000_000
KEPT_FILES = 3
_FORM = "%(asctime)s %(levelname)s %(name)s: %(message)s"


def start_logging(folder: Path) -> Path:
    """Write the program's log into ``folder`` from now on; returns the file.

    A log that cannot be written is no reason not to work: what it would have held goes to the
    standard error as it would without one. The administrator writes none in a user's folder.
    """
    file = folder / "plucky-ledger.log"
    root = _our_logger()
    stop_logging()
    try:
        make_folder(folder)
        if is_somebody_elses(folder):
            return file
        handler = _file_handler(file)
    except OSError as error:
        root.warning("no log can be kept in %s: %s", folder, error.strerror)
        return file
    handler.setFormatter(logging.Formatter(_FORM))
    root.addHandler(handler)
    return file


def _file_handler(file: Path) -> logging.Handler:
    from logging.handlers import RotatingFileHandler

    class LogFile(RotatingFileHandler):
        def handleError(self, record: logging.LogRecord) -> None:
            """A full disk, say: the work goes on without that line."""

    return LogFile(
        file, maxBytes=LARGEST_BYTES, backupCount=KEPT_FILES, encoding="utf-8", delay=True
    )


def _our_logger() -> logging.Logger:
    logger = logging.getLogger(OURS)
    if logger.level == logging.NOTSET:
        logger.setLevel(logging.INFO)
    return logger


def use_level(level: str) -> None:
    """Write down from now on what is of this level, such as "debug", or more important."""
    logging.getLogger(OURS).setLevel(level.upper())


class _StartsWithFirstLine(logging.Handler):
    """Starts the log when there is a line to write: most commands have none."""

    def __init__(self, folder: Callable[[], Path]) -> None:
        super().__init__()
        self._folder = folder

    def emit(self, record: logging.LogRecord) -> None:
        """Start the log in this one's place, with this line."""
        start_logging(self._folder())
        logging.getLogger(OURS).callHandlers(record)


@contextmanager
def logging_into(folder: Callable[[], Path]) -> Iterator[None]:
    """Write the program's log into a folder for a while; it is asked for when it is needed."""
    stop_logging()
    _our_logger().addHandler(_StartsWithFirstLine(folder))
    try:
        yield
    finally:
        stop_logging()


def stop_logging() -> None:
    """Close the log."""
    root = logging.getLogger(OURS)
    for handler in list(root.handlers):
        root.removeHandler(handler)
        handler.close()
