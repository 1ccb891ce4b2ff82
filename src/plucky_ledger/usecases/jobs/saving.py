"""Saving pictures."""

from pathlib import Path

from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.exchange.saving import save_file

PICTURES = (".svg", ".png")


def save_picture(data: bytes, path: Path) -> None:
    """Save a picture of one of the kinds there are. Raises Trouble; what was there is kept."""
    if path.suffix.lower() not in PICTURES:
        raise Refused(TroubleCode.ENDING_UNKNOWN, path=str(path), endings=", ".join(PICTURES))
    save_file(data, path)
