"""Atomic file writes: complete, private to their owner, and synced to disk.

Everything is opened relative to a handle on its folder. The administrator becomes the folder's
owner meanwhile, and follows no link that somebody else could have put on the way: so what lies in
a user's folder can be nothing but the user's own.
"""

import errno
import os
import stat
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from fcntl import LOCK_EX, flock
from pathlib import Path
from typing import BinaryIO

from plucky_ledger.linux.users import ADMINISTRATOR, acting_as, is_administrator

PRIVATE = 0o600
FOLDER = os.O_RDONLY | os.O_DIRECTORY | os.O_CLOEXEC
PASSED = os.O_PATH | os.O_DIRECTORY | os.O_CLOEXEC
"""A folder that is only passed through: it takes no right to read it."""
PLAIN = os.O_RDONLY | os.O_NONBLOCK | os.O_NOFOLLOW | os.O_CLOEXEC
FRESH = os.O_WRONLY | os.O_CREAT | os.O_EXCL | os.O_NOFOLLOW | os.O_CLOEXEC
MOST_LINKS = 40
HALF_WRITTEN = ".plucky-ledger-"
"""How names of files begin that are being written; one that stays was left by a kill."""
COPIED_AT_ONCE = 1 << 20


@contextmanager
def opened_folder(path: Path) -> Iterator[int]:
    """A handle on a folder, with its owner's rights. Raises OSError."""
    administrator = is_administrator()
    handle = walked(path) if administrator else os.open(path, FOLDER)
    try:
        with acting_as(os.fstat(handle).st_uid if administrator else os.geteuid()):
            yield handle
    finally:
        os.close(handle)


def anybodys(_folder: os.stat_result) -> bool:
    return True


def walked(
    path: Path,
    may_lie_in: Callable[[os.stat_result], bool] = anybodys,
    flags: int = FOLDER,
) -> int:
    """A handle on a folder, folder by folder; a link counts only where the administrator alone
    could have made it. Raises OSError, also for a folder in which nothing ``may_lie``.
    """
    parts = list(reversed(path.absolute().parts[1:]))
    handle = os.open("/", flags)
    links = 0
    try:
        while parts:
            refuse_unless(may_lie_in(os.fstat(handle)), path)
            name = parts.pop()
            if stat.S_ISLNK(os.stat(name, dir_fd=handle, follow_symlinks=False).st_mode):
                links += 1
                if links > MOST_LINKS or not only_changed_by(ADMINISTRATOR)(os.fstat(handle)):
                    raise OSError(errno.ELOOP, os.strerror(errno.ELOOP), str(path))
                target = Path(os.readlink(name, dir_fd=handle))
                parts.extend(reversed(target.parts[1:] if target.is_absolute() else target.parts))
                name = "/" if target.is_absolute() else "."
            below = os.open(name, flags | os.O_NOFOLLOW, dir_fd=handle)
            os.close(handle)
            handle = below
    except BaseException:
        os.close(handle)
        raise
    return handle


def is_somebody_elses(folder: Path) -> bool:
    """Whether the administrator would write in a user's folder there. Raises OSError."""
    if not is_administrator():
        return False
    with opened_folder(folder) as handle:
        return os.fstat(handle).st_uid != ADMINISTRATOR


def write_whole(path: Path, data: bytes, *, fresh: bool = False, mode: int = PRIVATE) -> None:
    """Write a file, whole or not at all; only its owner can read it unless ``mode`` says more.

    It is written beside its place, synced, and put there; the folder is synced as well. What was
    there before is replaced, a link not followed; with ``fresh`` it is left as it is.

    Raises:
        FileExistsError: ``fresh``, and there is one already.
        OSError: it could not be written; nothing half-written is left.
    """

    def write(file: BinaryIO) -> None:
        file.write(data)

    _put(path, write, fresh, mode)


def copy_whole(source: Path, target: Path) -> None:
    """Copy a file, whole or not at all, in the place of one that was there. Raises OSError."""
    with source.open("rb") as original:

        def write(file: BinaryIO) -> None:
            while chunk := original.read(COPIED_AT_ONCE):
                file.write(chunk)

        _put(target, write, fresh=False, mode=PRIVATE)


def _put(path: Path, write: Callable[[BinaryIO], None], fresh: bool, mode: int) -> None:
    beside = f"{HALF_WRITTEN}{os.urandom(8).hex()}"
    with opened_folder(path.parent) as folder:
        descriptor = os.open(beside, FRESH, PRIVATE, dir_fd=folder)
        try:
            with os.fdopen(descriptor, "wb") as file:
                write(file)
                file.flush()
                os.fchmod(descriptor, mode)
                os.fsync(descriptor)
            if fresh:
                os.link(beside, path.name, src_dir_fd=folder, dst_dir_fd=folder)
            else:
                os.replace(beside, path.name, src_dir_fd=folder, dst_dir_fd=folder)
                beside = ""
            os.fsync(folder)
        finally:
            if beside:
                os.unlink(beside, dir_fd=folder)


def sync_folder(folder: Path) -> None:
    """Make sure that the names in a folder are on the disk. Raises OSError."""
    descriptor = os.open(folder, FOLDER)
    try:
        os.fsync(descriptor)
    finally:
        os.close(descriptor)


def open_fresh(path: Path) -> int:
    """A descriptor to write a new private file with. Raises OSError, also where there is one."""
    with opened_folder(path.parent) as folder:
        return os.open(path.name, FRESH, PRIVATE, dir_fd=folder)


def read_bounded(path: Path, most_bytes: int, *, follow: bool = False) -> bytes:
    """What a plain file holds, and at most so much of it.

    A link is an error unless ``follow``; so is a device or a pipe. Raises OSError.
    """
    descriptor = os.open(path, PLAIN & ~os.O_NOFOLLOW if follow else PLAIN)
    with os.fdopen(descriptor, "rb") as file:
        refuse_unless(stat.S_ISREG(os.fstat(descriptor).st_mode), path, errno.EINVAL)
        return file.read(most_bytes)


def only_changed_by(owner: int) -> Callable[[os.stat_result], bool]:
    """Whether this user alone can change a file, or what is in a folder."""
    return lambda status: status.st_uid == owner and not status.st_mode & 0o022


def refuse_unless(fit: bool, path: Path, number: int = errno.EPERM) -> None:
    if not fit:
        raise OSError(number, os.strerror(number), str(path))


def put_link(path: Path, target: Path, *, over_a_file: bool = False) -> None:
    """Make a link, in the place of one that was there, or of a file. Raises OSError."""
    with opened_folder(path.parent) as folder:
        try:
            os.symlink(target, path.name, dir_fd=folder)
        except FileExistsError:
            there = os.stat(path.name, dir_fd=folder, follow_symlinks=False)
            if not over_a_file and not stat.S_ISLNK(there.st_mode):
                raise
            beside = f"{HALF_WRITTEN}{os.urandom(8).hex()}"
            os.symlink(target, beside, dir_fd=folder)
            os.replace(beside, path.name, src_dir_fd=folder, dst_dir_fd=folder)
        os.fsync(folder)


def remove(path: Path) -> bool:
    """Remove a file or a link; False when there is none. Raises OSError."""
    try:
        with opened_folder(path.parent) as folder:
            os.unlink(path.name, dir_fd=folder)
            os.fsync(folder)
    except (FileNotFoundError, NotADirectoryError):
        return False
    return True


def rename(path: Path, to: Path) -> None:
    """Give a file another name, in the place of one that has it. Raises OSError."""
    with opened_folder(path.parent) as folder, opened_folder(to.parent) as other:
        os.replace(path.name, to.name, src_dir_fd=folder, dst_dir_fd=other)
        os.fsync(folder)
        os.fsync(other)


def remove_folder(folder: Path) -> bool:
    """Remove an empty folder; False where there is none, or it is not empty. Raises OSError."""
    try:
        with opened_folder(folder.parent) as above:
            os.rmdir(folder.name, dir_fd=above)
            os.fsync(above)
    except OSError as error:
        if error.errno in (errno.ENOENT, errno.ENOTDIR, errno.ENOTEMPTY, errno.EEXIST):
            return False
        raise
    return True


def half_written_in(folder: Path) -> list[Path]:
    """Files of a folder that somebody was killed while writing."""
    try:
        names = os.listdir(folder)
    except OSError:
        return []
    return [folder / name for name in names if name.startswith(HALF_WRITTEN)]


def make_folder(folder: Path, mode: int = 0o700) -> None:
    """Make a folder and the missing ones above it, with the rights of the owner of the one above.

    By default each is readable by its owner only; the mode counts whatever umask was handed on. One
    that another process makes meanwhile is as good. Raises OSError.
    """
    missing = [place for place in (folder, *folder.parents) if not place.exists()]
    for place in reversed(missing):
        with opened_folder(place.parent) as above:
            try:
                os.mkdir(place.name, mode, dir_fd=above)
            except FileExistsError:
                if not place.is_dir():
                    raise
            else:
                set_mode(place.name, mode, above)


@contextmanager
def alone_in(folder: Path) -> Iterator[None]:
    """Nobody else who asks for it changes a folder meanwhile; nothing is left there.

    Raises OSError, but not where its file system has no locks.
    """
    handle = os.open(folder, FOLDER)
    try:
        with suppress(OSError):
            flock(handle, LOCK_EX)
        yield
    finally:
        os.close(handle)


def show_to_all(folder: Path) -> None:
    """Let everybody read a folder of this process's user that was made under a narrower umask.

    One in which others could write is left as it is: nothing in it becomes trustworthy. Raises
    OSError.
    """
    handle = os.open(folder, FOLDER | os.O_NOFOLLOW)
    try:
        if only_changed_by(os.geteuid())(os.fstat(handle)):
            os.fchmod(handle, 0o755)
    finally:
        os.close(handle)


def set_mode(name: str, mode: int, above: int) -> None:
    """Give a folder in another one, of which ``above`` is a handle, a mode. Raises OSError."""
    handle = os.open(name, FOLDER | os.O_NOFOLLOW, dir_fd=above)
    try:
        os.fchmod(handle, mode)
    finally:
        os.close(handle)
