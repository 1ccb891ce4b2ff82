"""Reading files only where no other user could have written or placed them."""

import errno
import os
import stat
from collections.abc import Callable
from pathlib import Path

from plucky_ledger.linux.files import PASSED, PLAIN, only_changed_by, refuse_unless, walked
from plucky_ledger.linux.users import ADMINISTRATOR


def read_trusted(path: Path, most_bytes: int, owner: int = ADMINISTRATOR) -> bytes:
    """What a plain file of this owner's holds, that nobody else could have written or put there.

    Of the administrator's, every folder above it has to be the administrator's as well; of a
    user's the folder it lies in. At most ``most_bytes`` are read.

    Raises:
        PermissionError: somebody else could have written it.
        OSError: it is no plain file, or cannot be read.
    """
    folder = (
        walked(path.parent, _keeps_what_lies_in_it, PASSED)
        if owner == ADMINISTRATOR
        else os.open(path.parent, PASSED)
    )
    try:
        keeps = _keeps_what_lies_in_it if owner == ADMINISTRATOR else _is_of(owner)
        refuse_unless(keeps(os.fstat(folder)), path)
        descriptor = os.open(path.name, PLAIN, dir_fd=folder)
    finally:
        os.close(folder)
    with os.fdopen(descriptor, "rb") as file:
        refuse_unless(stat.S_ISREG(os.fstat(descriptor).st_mode), path, errno.EINVAL)
        refuse_unless(only_changed_by(owner)(os.fstat(descriptor)), path)
        return file.read(most_bytes)


def only_the_administrator_changes(path: Path) -> bool:
    """Whether nobody else can change this file or put another in its place. False if not there."""
    try:
        return all(only_changed_by(ADMINISTRATOR)(place.stat()) for place in (path, *path.parents))
    except OSError:
        return False


def lies_with_the_administrator(place: Path) -> bool:
    """Whether only the administrator could have put anything there, or in a folder above it that is
    there; False for a path that is not absolute.
    """
    if not place.is_absolute():
        return False
    there = next(one for one in (place, *place.parents) if os.path.lexists(one))
    try:
        folder = walked(there, _keeps_what_lies_in_it, PASSED)
    except OSError:
        return False
    try:
        return only_changed_by(ADMINISTRATOR)(os.fstat(folder))
    finally:
        os.close(folder)


def _is_of(owner: int) -> Callable[[os.stat_result], bool]:
    """Whether a folder is this user's; their group, which is often nobody but them, may write."""
    return lambda status: status.st_uid == owner and not status.st_mode & 0o002


def _keeps_what_lies_in_it(folder: os.stat_result) -> bool:
    """Whether nobody but the administrator can replace what the administrator has put there.

    In a sticky folder others can make files of their own, but cannot take away what is not theirs.
    """
    if folder.st_uid != ADMINISTRATOR:
        return False
    return not folder.st_mode & 0o022 or bool(folder.st_mode & stat.S_ISVTX)
