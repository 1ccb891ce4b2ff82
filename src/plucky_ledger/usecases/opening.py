"""Opening a ledger, for both front ends."""

from pathlib import Path

from plucky_ledger.store.ledger import Ledger, file_of

__all__ = ["Ledger", "file_of", "open_ledger"]


def open_ledger(address: str | Path) -> Ledger:
    """The ledger at a path or database URL, made where there is none.

    Raises:
        Trouble: it is none, damaged, of a newer version, or out of reach. Untouched then.
    """
    return Ledger(address)
