"""Who worked in a boot, as it is kept with it."""

from typing import NamedTuple


class Worked(NamedTuple):
    """One entry, or one program of no entry, that worked in a boot.

    A named tuple: a ledger has many, and every command that looks at boots reads them.
    """

    name: str
    cpu_seconds: float
    entry_id: str = ""
    """Empty for a program of no entry."""
    bytes_read: float = 0.0
    memory_bytes: float = 0.0
    by_itself: bool = True
    """It starts at every start, or nobody knows who asked for it; others only where asked for, as
    by what was switched off.
    """
