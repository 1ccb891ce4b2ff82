"""A file that somebody chose: read whole, within bounds."""

from pathlib import Path

from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.linux.files import read_bounded


def read_chosen(path: Path, most_bytes: int) -> bytes:
    """What is in it. Raises Refused where it cannot be read, or is larger."""
    try:
        data = read_bounded(path, most_bytes + 1, follow=True)
    except OSError as error:
        raise Refused(
            TroubleCode.FILE_UNREADABLE, path=str(path), system=error.strerror or ""
        ) from error
    if len(data) > most_bytes:
        raise Refused(TroubleCode.FILE_TOO_LARGE, name=path.name, most_bytes=most_bytes)
    return data
