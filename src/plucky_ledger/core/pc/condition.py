"""What state a PC's hardware and system are in, as far as the kernel and the firmware tell."""

from collections.abc import Mapping
from dataclasses import dataclass, fields, replace
from datetime import datetime
from typing import TypeVar

One = TypeVar("One", "DriveHealth", "FileSystem")


@dataclass(frozen=True)
class MemoryModule:
    """One memory module as it is fitted."""

    slot: str
    size_bytes: int
    kind: str = ""
    """Such as "DDR4"."""
    megatransfers: int | None = None
    """Millions of transfers a second."""


@dataclass(frozen=True, kw_only=True)
class FileSystem:
    """One mounted file system on a drive."""

    mount: str
    kind: str
    size_bytes: int
    free_bytes: int
    inodes: int = 0
    """How many files it can hold; 0 where it needs no such number."""
    inodes_free: int = 0
    system: bool = False
    """The system itself lies on it."""
    errors: int | None = None
    """Errors the kernel has ever found in it; None is not known."""
    check_due: bool | None = None
    """It wants to be checked; None is not known."""

    @property
    def full(self) -> float:
        """Share of its room, or of its files, that is taken: the greater, 0 to 1."""
        room = 1 - self.free_bytes / self.size_bytes if self.size_bytes else 0.0
        files = 1 - self.inodes_free / self.inodes if self.inodes else 0.0
        return max(room, files, 0.0)


@dataclass(frozen=True, kw_only=True)
class DriveHealth:
    """How one drive is. None is not known."""

    name: str
    model: str = ""
    errors: int | None = None
    """Errors and resets in the kernel's log of this boot."""
    temperature_celsius: float | None = None
    failing: bool | None = None
    """It says itself that it will not last."""
    bad_sectors: int | None = None
    """Given up, waiting to be, or not to be read any more."""
    worn: float | None = None
    """What it has used up of its life, by its own account: 1 is all."""
    hours: int | None = None
    """How long it has been on in its life."""


@dataclass(frozen=True, kw_only=True)
class Condition:
    """The state of a PC at one moment. Empty texts and None are not known."""

    maker: str = ""
    model: str = ""
    modules: tuple[MemoryModule, ...] = ()
    memory_slots: int | None = None
    most_memory_bytes: int | None = None
    """As much as the firmware says can be fitted."""
    file_systems: tuple[FileSystem, ...] = ()
    drives: tuple[DriveHealth, ...] = ()
    swap_total_bytes: int | None = None
    swap_used_bytes: int | None = None
    swap_compressed: bool = False
    """It lies in compressed memory, not on a drive."""
    killed_for_memory: int | None = None
    """Programs the kernel ended since the start, because there was no memory left."""
    reread_bytes: int | None = None
    """Read again since the start because there was no memory left to keep it in."""
    swapped_out_bytes: int | None = None
    """Written to swap since the start."""
    throttled: int | None = None
    """How often heat held a core down since the start."""
    frequency_limit: float | None = None
    """Share of its highest frequency that the processor may use."""
    power_profile: str = ""
    encrypted: bool = False
    """The system lies on an encrypted volume."""
    kernel_parameters: str = ""
    start_up_made_by: str = ""
    """What makes the start-up file system (initrd), such as "dracut"."""


@dataclass(frozen=True)
class Inspected:
    """What the administrator was told of a PC, who may see more than anybody."""

    at: datetime
    condition: Condition


def with_inspected(condition: Condition | None, inspected: Inspected | None) -> Condition:
    """What a recording tells of a PC; where it does not know of a drive or a file system, what the
    administrator was told.
    """
    if inspected is None or condition is None:
        return condition or (inspected.condition if inspected is not None else Condition())
    reported = inspected.condition
    return replace(
        condition,
        drives=_filled(condition.drives, {drive.name: drive for drive in reported.drives}),
        file_systems=_filled(
            condition.file_systems, {one.mount: one for one in reported.file_systems}
        ),
    )


def _filled(known: tuple[One, ...], told: Mapping[str, One]) -> tuple[One, ...]:
    """Each with what it does not know itself."""
    return tuple(
        replace(one, **{name: getattr(more, name) for name in _unknown(one)})
        if (more := told.get(one.mount if isinstance(one, FileSystem) else one.name)) is not None
        else one
        for one in known
    )


def _unknown(one: DriveHealth | FileSystem) -> list[str]:
    return [field.name for field in fields(one) if getattr(one, field.name) is None]
