"""The line that tells what state a PC's hardware and system are in, and what it is made of."""

from typing import Annotated

from msgspec import Meta, Struct

Text = Annotated[str, Meta(max_length=4096)]
Count = Annotated[int, Meta(ge=0, le=2**53)]
Bytes = Annotated[int, Meta(ge=0, le=2**62)]


class ModuleFacts(Struct, frozen=True):
    """One memory module as it is fitted."""

    slot: Text
    size_bytes: Bytes
    type: Text = ""
    """Such as "DDR4"."""
    megatransfers: Count | None = None
    """Millions of transfers a second."""


class FileSystemFacts(Struct, frozen=True):
    """One mounted file system on a drive."""

    mount: Text
    type: Text
    size_bytes: Bytes
    free_bytes: Bytes
    inodes: Bytes = 0
    """How many files it can hold; 0 where it needs no such number."""
    inodes_free: Bytes = 0
    errors: Count | None = None
    """Errors the kernel has ever found in it."""
    check_due: bool | None = None
    """It wants to be checked: told to the administrator alone."""


class DriveHealthFacts(Struct, frozen=True):
    """How one drive is; None is not known."""

    name: Text
    model: Text = ""
    errors: Count | None = None
    """Errors and resets in the kernel's log of this boot."""
    temperature_celsius: Annotated[float, Meta(ge=-273, le=1000)] | None = None
    failing: bool | None = None
    """The drive says itself that it will not last."""
    bad_sectors: Count | None = None
    """Given up, waiting to be, or not to be read any more."""
    worn: Annotated[float, Meta(ge=0, le=10)] | None = None
    """What it has used up of its life, by its own account: 1 is all."""
    hours: Count | None = None
    """How long it has been on in its life."""


class ConditionLine(Struct, frozen=True, tag="condition", tag_field="kind"):
    """The state of the PC when the recording ended; empty texts and null are not known."""

    maker: Text = ""
    model: Text = ""
    modules: Annotated[tuple[ModuleFacts, ...], Meta(max_length=256)] = ()
    memory_slots: Annotated[int, Meta(ge=0, le=4096)] | None = None
    most_memory_bytes: Bytes | None = None
    file_systems: Annotated[tuple[FileSystemFacts, ...], Meta(max_length=256)] = ()
    drives: Annotated[tuple[DriveHealthFacts, ...], Meta(max_length=256)] = ()
    swap_total_bytes: Bytes | None = None
    swap_used_bytes: Bytes | None = None
    swap_compressed: bool = False
    killed_for_memory: Count | None = None
    """Programs ended since the start for want of memory."""
    reread_bytes: Bytes | None = None
    """Read again since the start because there was no memory left to keep it in."""
    swapped_out_bytes: Bytes | None = None
    """Written to swap since the start."""
    throttled: Count | None = None
    """How often heat held a core down since the start."""
    frequency_limit: Annotated[float, Meta(ge=0, le=1)] | None = None
    """Share of its highest frequency that the processor may use."""
    power_profile: Text = ""
    encrypted: bool = False
    """The system lies on an encrypted volume."""
    kernel_parameters: Text = ""
    """What the loader gave the kernel, without what tells the volumes apart."""
    start_up_made_by: Text = ""
    """What makes the start-up file system, such as "dracut"."""
