"""Disk space: what takes it on a PC's drive, and what clearing each item would cost."""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum


class HeapKind(StrEnum):
    """What a heap is."""

    PACKAGE_CACHE = "package_cache"
    LOGS = "logs"
    CRASHES = "crashes"
    BIN = "bin"
    THUMBNAILS = "thumbnails"
    PROGRAM_CACHES = "program_caches"
    OLD_KERNELS = "old_kernels"
    UNNEEDED = "unneeded"
    """Packages that came with others which are gone; they lie in the system's folders."""
    LEFT_TEMPORARY = "left_temporary"
    DOWNLOADS = "downloads"
    SYSTEM = "system"
    FOLDER = "folder"
    """A large folder of no known kind."""


class Clearing(StrEnum):
    """What clearing a heap costs."""

    NOTHING = "nothing"
    FETCHED_AGAIN = "fetched_again"
    """What is needed of it is made or fetched again: slower the first time."""
    HISTORY = "history"
    """What it tells of the past is lost."""
    UNLESS_USED = "unless_used"
    """Nothing, unless something uses it that no package knows of."""
    FALL_BACK = "fall_back"
    """There is one way back less."""
    OWNERS = "owners"
    """It is the owner's to decide."""
    NEVER = "never"
    """It is needed."""


CLEARING: Mapping[HeapKind, Clearing] = {
    HeapKind.PACKAGE_CACHE: Clearing.FETCHED_AGAIN,
    HeapKind.LOGS: Clearing.HISTORY,
    HeapKind.CRASHES: Clearing.NOTHING,
    HeapKind.BIN: Clearing.OWNERS,
    HeapKind.THUMBNAILS: Clearing.FETCHED_AGAIN,
    HeapKind.PROGRAM_CACHES: Clearing.FETCHED_AGAIN,
    HeapKind.OLD_KERNELS: Clearing.FALL_BACK,
    HeapKind.UNNEEDED: Clearing.UNLESS_USED,
    HeapKind.LEFT_TEMPORARY: Clearing.NOTHING,
    HeapKind.DOWNLOADS: Clearing.OWNERS,
    HeapKind.SYSTEM: Clearing.NEVER,
    HeapKind.FOLDER: Clearing.OWNERS,
}


@dataclass(frozen=True)
class Heap:
    """One heap."""

    kind: HeapKind
    path: str
    """Where it lies; of several places the largest. Of packages the names of the largest."""
    size_bytes: int
    files: int
    """Of packages how many they are."""

    @property
    def clearing(self) -> Clearing:
        """What clearing it costs."""
        return CLEARING[self.kind]


@dataclass(frozen=True, kw_only=True)
class Survey:
    """What was found on one file system."""

    heaps: tuple[Heap, ...]
    """The largest first."""
    counted_bytes: int
    """All that was counted, in heaps or not."""
    files: int
    unreadable: int
    """Folders that may not be looked into."""
    size_bytes: int
    free_bytes: int
    whole: bool
    """False where it was stopped before the end."""
    elsewhere: int = 0
    """Folders of other file systems, which were not looked into."""
    again: int = 0
    """Folders that are there a second time, as by a bind mount: they count once."""
    too_deep: int = 0
    """Folders that lie deeper than they are looked for."""
