"""Saving what is handed over: statements and pictures."""

from pathlib import Path

from plucky_ledger.core.values.trouble import Trouble, TroubleCode
from plucky_ledger.linux.files import write_whole


class NotSaved(Trouble):
    """A file could not be written; what was there before is kept."""


def refuse_no_file(path: Path) -> None:
    """Raises NotSaved where something is that is no file, before what goes there is worked out."""
    if path.exists() and not path.is_file():
        raise NotSaved(TroubleCode.NOT_A_FILE, path=str(path))


def save_file(data: bytes, path: Path) -> None:
    """Write a file whole or not at all, in the place of a file only. Raises NotSaved."""
    refuse_no_file(path)
    try:
        write_whole(path, data)
    except OSError as error:
        at_fault = TroubleCode.FILE_NOT_WRITTEN
        if not path.parent.is_dir() or isinstance(error, PermissionError):
            at_fault = TroubleCode.FOLDER_NOT_WRITABLE
        raise NotSaved(
            at_fault, path=str(path), folder=str(path.parent), system=error.strerror or ""
        ) from error
