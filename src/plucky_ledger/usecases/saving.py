"""Saving pictures."""

from pathlib import Path

from plucky_ledger.exchange.saving import save_file


def save_picture(data: bytes, path: Path) -> None:
    """Save a picture. Raises Trouble; what was there is kept."""
    save_file(data, path)
