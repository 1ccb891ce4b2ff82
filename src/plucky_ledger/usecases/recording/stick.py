"""Writing the recorder onto a stick, for PCs that have nothing of ours."""

from collections.abc import Callable
from pathlib import Path

from plucky_ledger.core.values.trouble import Trouble, TroubleCode
from plucky_ledger.stick.archive import FILE, Words, write_stick


def prepare_stick(
    folder: Path, words: Callable[[tuple[str, ...]], Words], guide: Callable[[str], str]
) -> Path:
    """Write the one file and its guide into a folder; returns the file.

    Raises Trouble where it cannot be written.
    """
    try:
        return write_stick(folder, words, guide(FILE))
    except OSError as error:
        raise Trouble(
            TroubleCode.FILE_NOT_WRITTEN, path=str(folder), system=error.strerror or ""
        ) from error
