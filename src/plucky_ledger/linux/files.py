"""Writing a file: whole, private to its owner, and on the disk before it is said to be there."""

import os
import tempfile
from pathlib import Path

from plucky_ledger.linux.users import give_to_owner_of


def write_whole(path: Path, data: bytes, *, fresh: bool = False) -> None:
    """Write a file that only its owner can read, whole or not at all.

    It is written beside its place, synced, and put there; the folder is synced as well. What was
    there before is replaced, or with ``fresh`` left as it is. In somebody else's folder the
    administrator's files become theirs.

    Raises:
        FileExistsError: ``fresh``, and there is one already.
        OSError: it could not be written; nothing half-written is left.
    """
    descriptor, name = tempfile.mkstemp(dir=path.parent, prefix=f".{path.name}.")
    beside = Path(name)
    try:
        with os.fdopen(descriptor, "wb") as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        give_to_owner_of(path.parent, beside)
        if fresh:
            os.link(beside, path)
        else:
            os.replace(beside, path)
        sync_folder(path.parent)
    finally:
        beside.unlink(missing_ok=True)


def sync_folder(folder: Path) -> None:
    """Make sure that the names in a folder are on the disk."""
    descriptor = os.open(folder, os.O_RDONLY | os.O_DIRECTORY)
    try:
        os.fsync(descriptor)
    finally:
        os.close(descriptor)


def make_private_folder(folder: Path) -> None:
    """Make a folder and those above it that are missing, each readable by its owner only."""
    missing = [place for place in (folder, *folder.parents) if not place.exists()]
    for place in reversed(missing):
        place.mkdir(mode=0o700)
        give_to_owner_of(place.parent, place)
