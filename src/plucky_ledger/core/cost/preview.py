"""The boot to come: one recorded boot as the replay expects it without some of its entries.

A replay is quicker than the boot it is of, by what nobody could see. So everything keeps its place
as it was observed, less what it comes earlier in the replay without the entries than with them.
"""

from collections.abc import Mapping
from dataclasses import dataclass

from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.core.boots.samples import Floats


@dataclass(frozen=True)
class Earlier:
    """By how many seconds an entry comes earlier."""

    begins: float
    is_up: float


@dataclass(frozen=True, eq=False)
class Preview:
    """What a plan does to one boot."""

    missing: frozenset[str]
    """Entries that are no part of it."""
    entries: Mapping[str, Earlier]
    marks: Mapping[Mark, float]
    """Seconds by which marks come earlier."""
    edges: Floats
    """Shape (n + 1,): seconds since the kernel started at which the steps of the curves end."""
    cpu_share: Floats
    """Shape (n,): of all cores."""
    disk_share: Floats
    """Shape (n,): of the time the drive has work."""
