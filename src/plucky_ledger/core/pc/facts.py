"""What a PC has: read from it, or typed for one that can run nothing of ours."""

from dataclasses import dataclass
from enum import StrEnum


class DriveKind(StrEnum):
    """What a drive is made of."""

    ROTATING = "rotating"
    SOLID_STATE = "solid_state"
    UNKNOWN = "unknown"


@dataclass(frozen=True)
class Drive:
    """One drive."""

    name: str
    kind: DriveKind
    size_bytes: int
    free_bytes: int | None = None
    """Free on its mounted file systems; None when none is mounted or nobody said."""
    virtual: bool = False
    """A host of virtual machines makes it: what it is made of is not known, and not to be bought.
    """


@dataclass(frozen=True, kw_only=True)
class Facts:
    """What a PC has. Empty texts and None are not known."""

    os_release: str = ""
    kernel: str = ""
    cpu_model: str = ""
    cores: int | None = None
    memory_bytes: int | None = None
    drives: tuple[Drive, ...] = ()
    uptime_seconds: float | None = None
    """How long ago it was last started, when the facts were read."""
