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
