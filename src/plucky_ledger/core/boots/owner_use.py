"""What one owner used within a span of a boot: CPU, disk, memory, processes."""

from dataclasses import dataclass


@dataclass(frozen=True)
class OwnerUse:
    """Use of one owner within a span."""

    cpu_seconds: float
    bytes_read: float
    memory_bytes: float
    """Held at an instant; shared pages count in parts where the kernel tells."""
    processes: int
    """Running at that instant."""
    bytes_written: float = 0.0
    """As far as the kernel lets the reader see it."""


NOTHING = OwnerUse(0.0, 0.0, 0.0, 0)


@dataclass(frozen=True, kw_only=True)
class Worked:
    """One entry, or one program of no entry, that worked in a boot."""

    name: str
    entry_id: str = ""
    """Empty for a program of no entry."""
    cpu_seconds: float
    bytes_read: float = 0.0
    memory_bytes: float = 0.0
    by_itself: bool = True
    """It starts at every start, or nobody knows who asked for it; others only where asked for, as
    by what was switched off.
    """
