"""Who worked in a boot, as it is kept with it."""

from typing import NamedTuple

KEPT_CPU_SECONDS = 0.5
"""Who worked for less is not kept: it moves no figure by what anybody would notice."""

KEPT_LATER_CPU_SECONDS = 1.5
"""The same of who worked after the PC had settled: by less nobody says that work has moved."""


# A named tuple: a ledger has many, and every command that looks at boots reads them.
class Worked(NamedTuple):
    """One entry, or one program of no entry, that worked in a boot."""

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
    later_cpu_seconds: float = 0.0
    """From when it had settled to the end of the slow look."""
    later_at: float = 0.0
    """Seconds since the kernel started at which half of that was done; 0 for none."""
