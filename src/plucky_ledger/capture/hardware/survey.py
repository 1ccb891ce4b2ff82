"""A survey of this PC's drive: one walk over the system's file system, within the user's rights.

Sizes are what files take on the drive (st_blocks, stat(2)), a file with several names counts once,
links are not followed and other file systems not entered. Nothing is changed.
"""

import os
import re
import stat
from collections import Counter
from collections.abc import Callable, Iterator, Mapping
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path

from plucky_ledger.capture.packages.packages import managers
from plucky_ledger.capture.packages.unneeded import unneeded_packages
from plucky_ledger.core.pc.room import Heap, HeapKind, Survey
from plucky_ledger.recording.lines import bounded

Progress = Callable[[int, str], bool]
"""Told how many files were counted, and where; False stops."""
TELL_EVERY = 2_000
BLOCK = 512
FOLDER = os.O_RDONLY | os.O_DIRECTORY | os.O_NOFOLLOW | os.O_CLOEXEC
PATH_AT_ONCE = 1_000
"""Characters of a path that is opened in one step: the system takes 4,095 bytes."""
LONGEST_PATH = 200_000
"""Characters; deeper folders are not entered."""
DEPTH = 3
"""Names below the root by which folders of no known kind are told apart."""
MOST_FOLDERS = 8
NAMED_PACKAGES = 4
LEAST_BYTES = 50_000_000
"""Smaller heaps are not worth knowing."""
SYSTEM = ("bin", "boot", "etc", "lib", "lib32", "lib64", "opt", "sbin", "usr")
PLACES: Mapping[HeapKind, tuple[str, ...]] = {
    HeapKind.PACKAGE_CACHE: tuple(cache for manager in managers() for cache in manager.caches),
    HeapKind.LOGS: ("var/log",),
    HeapKind.CRASHES: ("var/crash", "var/lib/systemd/coredump"),
    HeapKind.LEFT_TEMPORARY: ("tmp", "var/tmp"),
    HeapKind.SYSTEM: SYSTEM,
}
"""Folders of the system, by the file hierarchy standard."""
OF_A_HOME: Mapping[HeapKind, tuple[str, ...]] = {
    HeapKind.BIN: (".local/share/Trash",),
    HeapKind.THUMBNAILS: (".cache/thumbnails",),
    HeapKind.PROGRAM_CACHES: (".cache",),
    HeapKind.DOWNLOADS: ("Downloads",),
}
"""Folders of each user, by the desktops' base directory and trash specifications."""
_KERNEL = re.compile(
    r"(?:vmlinuz|vmlinux|initrd\.img|initramfs|config|System\.map)-(\d.*?)(?:\.img)?"
)
_Place = tuple[HeapKind, str]
"""What a heap is, and its folder."""


@dataclass(kw_only=True)
class _Sums:
    """What was counted so far."""

    size: Counter[_Place] = field(default_factory=Counter)
    files: Counter[_Place] = field(default_factory=Counter)
    counted_bytes: int = 0
    counted: int = 0
    unreadable: int = 0
    elsewhere: int = 0
    again: int = 0
    too_deep: int = 0
    seen: set[tuple[int, int]] = field(default_factory=set)
    """Files with several names."""
    entered: set[tuple[int, int]] = field(default_factory=set)
    """Folders: each is looked into once, however often it is mounted."""


def survey(progress: Progress, root: Path = Path("/"), running: str | None = None) -> Survey:
    """Walk over the file system at ``root``; ``running`` is the kernel in use."""
    places = _places(root, running or os.uname().release)
    sums, whole = _Sums(), True
    try:
        top = os.lstat(root)
    except OSError:
        return Survey(
            heaps=(),
            counted_bytes=0,
            files=0,
            unreadable=1,
            size_bytes=0,
            free_bytes=0,
            whole=False,
        )
    sums.entered.add((top.st_dev, top.st_ino))
    waiting: list[tuple[str, _Place | None]] = [(str(root), None)]
    while waiting:
        folder, place = waiting.pop()
        for name, told in _entries(folder, sums):
            path = os.path.join(folder, name)
            if stat.S_ISDIR(told.st_mode):
                if _is_to_be_entered(path, told, top.st_dev, sums):
                    waiting.append((path, places.get(path, place)))
                continue
            in_place = places.get(path, place) or (HeapKind.FOLDER, _folder(folder, root))
            _count(sums, told, in_place)
            if sums.counted % TELL_EVERY == 0 and not progress(sums.counted, _text(folder)):
                waiting.clear()
                whole = False
                break
    return _told(sums, root, whole)


def _is_to_be_entered(path: str, told: os.stat_result, device: int, sums: _Sums) -> bool:
    """Whether a folder is looked into; if not, it is counted why."""
    if told.st_dev != device:
        sums.elsewhere += 1
    elif (told.st_dev, told.st_ino) in sums.entered:
        sums.again += 1
    elif len(path) > LONGEST_PATH:
        sums.too_deep += 1
    else:
        sums.entered.add((told.st_dev, told.st_ino))
        return True
    return False


def _entries(folder: str, sums: _Sums) -> Iterator[tuple[str, os.stat_result]]:
    """Names in a folder, and what each is; those that are gone meanwhile are left out."""
    try:
        handle = _opened(folder)
    except OSError:
        sums.unreadable += 1
        return
    try:
        with os.scandir(handle) as entries:
            for entry in entries:
                with suppress(OSError):
                    yield entry.name, entry.stat(follow_symlinks=False)
    except OSError:
        sums.unreadable += 1
    finally:
        os.close(handle)


def _opened(folder: str) -> int:
    """A handle on a folder, also on one whose path is longer than the system takes at once."""
    if len(folder) < PATH_AT_ONCE:
        return os.open(folder, FOLDER)
    above = os.path.split(folder[:PATH_AT_ONCE])[0]
    handle, rest = os.open(above, FOLDER), folder[len(above) + 1 :]
    try:
        while rest:
            step = rest if len(rest) < PATH_AT_ONCE else os.path.split(rest[:PATH_AT_ONCE])[0]
            below = os.open(step, FOLDER, dir_fd=handle)
            os.close(handle)
            handle, rest = below, rest[len(step) + 1 :]
    except OSError:
        os.close(handle)
        raise
    return handle


def _count(sums: _Sums, told: os.stat_result, place: _Place) -> None:
    sums.counted += 1
    if told.st_nlink > 1:
        if (told.st_dev, told.st_ino) in sums.seen:
            return
        sums.seen.add((told.st_dev, told.st_ino))
    size = told.st_blocks * BLOCK
    sums.counted_bytes += size
    sums.size[place] += size
    sums.files[place] += 1


def _folder(path: str, root: Path) -> str:
    """The folder that what lies in ``path`` is told by: so many names below the root at most."""
    parts = path[len(str(root)) :].strip("/").split("/")
    return os.path.join(str(root), *parts[:DEPTH])


def _told(sums: _Sums, root: Path, whole: bool) -> Survey:
    heaps = [*_known_heaps(sums), *_largest_folders(sums), *_unneeded(root)]
    try:
        room = os.statvfs(root)
        size, free = room.f_blocks * room.f_frsize, room.f_bavail * room.f_frsize
    except OSError:
        size = free = 0
    return Survey(
        heaps=tuple(sorted(heaps, key=lambda heap: (-heap.size_bytes, heap.path))),
        counted_bytes=sums.counted_bytes,
        files=sums.counted,
        unreadable=sums.unreadable,
        size_bytes=size,
        free_bytes=free,
        whole=whole,
        elsewhere=sums.elsewhere,
        again=sums.again,
        too_deep=sums.too_deep,
    )


def _text(path: str) -> str:
    """A path as text: names need not be any."""
    return os.fsencode(path).decode("utf-8", "replace")


def _known_heaps(sums: _Sums) -> Iterator[Heap]:
    """One heap a kind, named by the folder that has most of it."""
    for kind in HeapKind:
        keys = [key for key in sums.size if key[0] is kind and kind is not HeapKind.FOLDER]
        size = sum(sums.size[key] for key in keys)
        if size >= LEAST_BYTES:
            largest = max(keys, key=lambda key: (sums.size[key], key[1]))
            files = sum(sums.files[key] for key in keys)
            yield Heap(kind, _text(largest[1]), size, files)


def _largest_folders(sums: _Sums) -> list[Heap]:
    folders = [
        Heap(HeapKind.FOLDER, _text(path), size, sums.files[HeapKind.FOLDER, path])
        for (kind, path), size in sums.size.items()
        if kind is HeapKind.FOLDER and size >= LEAST_BYTES
    ]
    return sorted(folders, key=lambda heap: -heap.size_bytes)[:MOST_FOLDERS]


def _unneeded(root: Path) -> Iterator[Heap]:
    """Packages nobody needs: by what their database says they take."""
    packages = unneeded_packages(root)
    size = sum(package.size_bytes for package in packages)
    if size >= LEAST_BYTES:
        names = ", ".join(package.name for package in packages[:NAMED_PACKAGES])
        yield Heap(HeapKind.UNNEEDED, bounded(names), size, len(packages))


def _places(root: Path, running: str) -> dict[str, _Place]:
    """What lies where: folders of the system, of every home, and kernels no longer needed."""
    homes = [root / "root", *(root / "home" / name for name in _names(root / "home"))]
    details = {
        **{str(root / one): kind for kind, each in PLACES.items() for one in each},
        **{
            str(home / one): kind
            for home in homes
            for kind, each in OF_A_HOME.items()
            for one in each
        },
        **dict.fromkeys(_old_kernels(root, running), HeapKind.OLD_KERNELS),
    }
    return {path: (kind, path) for path, kind in details.items()}


def _old_kernels(root: Path, running: str) -> frozenset[str]:
    """Files and folders of kernels that are neither in use nor the newest."""
    found: dict[str, set[str]] = {}
    for base in (root / "lib/modules", root / "usr/lib/modules"):
        for name in _names(base):
            found.setdefault(name, set()).add(str(base / name))
    for name in _names(root / "boot"):
        if (kernel := _KERNEL.fullmatch(name)) is not None:
            found.setdefault(kernel[1], set()).add(str(root / "boot" / name))
    kept = {running, max(found, key=_version, default="")}
    return frozenset(path for name, paths in found.items() if name not in kept for path in paths)


def _names(folder: Path) -> list[str]:
    try:
        return os.listdir(folder)
    except OSError:
        return []


def _version(name: str) -> list[tuple[int, str]]:
    """By which versions are put in order: numbers as numbers."""
    parts = re.split(r"[.\-+_]", name)
    return [(int(part), "") if part.isdecimal() else (-1, part) for part in parts]
