"""Changes: one thing done to a PC each, and the change that undoes one."""

from dataclasses import dataclass, replace
from enum import StrEnum

from plucky_ledger.core.entries.states import EntryState


class ChangeKind(StrEnum):
    """What kind of thing was done to the PC."""

    STARTUP_ENTRY = "startup_entry"
    PROGRAM_SETTING = "program_setting"
    SERVICE_START_MODE = "service_start_mode"
    BOOT_OPTION = "boot_option"
    FAST_START = "fast_start"
    SWAP = "swap"
    POWER_OR_EFFECTS = "power_or_effects"
    DRIVER = "driver"
    PROGRAM_ADDED = "program_added"
    PROGRAM_REMOVED = "program_removed"
    UPDATE = "update"
    DISK_SPACE = "disk_space"
    DISK_CHECK = "disk_check"
    CACHE = "cache"
    MALWARE_SCAN = "malware_scan"
    MEMORY = "memory"
    SOLID_STATE_DRIVE = "solid_state_drive"
    OTHER = "other"


HAVE_A_VALUE = frozenset(
    {
        ChangeKind.SWAP,
        ChangeKind.MEMORY,
        ChangeKind.DISK_SPACE,
        ChangeKind.CACHE,
        ChangeKind.POWER_OR_EFFECTS,
        ChangeKind.BOOT_OPTION,
        ChangeKind.SOLID_STATE_DRIVE,
        ChangeKind.DRIVER,
        ChangeKind.SERVICE_START_MODE,
        ChangeKind.FAST_START,
    }
)
"""Kinds of change that have a value before and after."""


@dataclass(frozen=True, kw_only=True)
class Change:
    """One thing done to the PC."""

    kind: ChangeKind
    what: str
    """What was done as it was typed; for a startup entry, the entry's name."""
    why: str = ""
    entry_id: str = ""
    """The startup entry it is about, if it is about one."""
    new_state: EntryState | None = None
    """How that entry is set from then on."""
    old_state: EntryState | None = None
    """How it was set before, where the PC itself told."""
    put_back: bool = False
    """It undoes what ``what`` tells."""
    outside: bool = False
    """Somebody else made it, or the PC itself: noticed afterwards, and not ours to undo."""
    before: str = ""
    """Value before, as it was read or typed, such as "2.1 GB"."""
    after: str = ""


def undoing(change: Change, why: str = "") -> Change:
    """The change that undoes one."""
    state = (change.old_state or EntryState.ON) if change.entry_id else None
    return replace(
        change,
        why=why,
        new_state=state,
        old_state=change.new_state,
        put_back=True,
        before=change.after,
        after=change.before,
    )
