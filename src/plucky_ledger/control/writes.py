"""File writes: for each path its content before and after."""

import base64
import errno
import os
import stat
from pathlib import Path

import msgspec

from plucky_ledger.linux.files import (
    half_written_in,
    make_folder,
    only_changed_by,
    put_link,
    read_bounded,
    remove,
    remove_folder,
    sync_folder,
    write_whole,
)
from plucky_ledger.linux.own_table import put_own_table, read_own_table

LARGEST_BYTES = 1 << 20
EVERYBODY_READS = 0o644
EVERYBODY_ENTERS = 0o755
OWN_TABLE = "crontab"
"""Stands for the path of the user's own table of timed jobs, which only its program reaches."""
OWN_TABLE_MODE = 0o600
MOST_RIGHTS = 0o775
"""Of a file that is written: no setuid, no setgid, no sticky, nothing for others to write."""


class Nothing(msgspec.Struct, frozen=True, tag="nothing"):
    """There is nothing."""


class Folder(msgspec.Struct, frozen=True, tag="folder"):
    """There is a folder; its content and permissions do not matter."""


class Link(msgspec.Struct, frozen=True, tag="link"):
    """There is a link."""

    target: str


class File(msgspec.Struct, frozen=True, tag="file"):
    """There is a plain file."""

    text: str
    mode: int = EVERYBODY_READS
    """Never more than ``MOST_RIGHTS``, whatever was said."""
    encoded: bool = False
    """The text is Base64 of what is no text."""

    def __post_init__(self) -> None:
        """Raises ValueError where that is no unit file and no desktop entry."""
        msgspec.structs.force_setattr(self, "mode", self.mode & MOST_RIGHTS)
        if len(self.data) > LARGEST_BYTES:
            raise ValueError("larger than a unit file or desktop entry is")

    @property
    def data(self) -> bytes:
        """The content as bytes."""
        if self.encoded:
            return base64.b64decode(self.text, validate=True)
        return self.text.encode()

    @classmethod
    def of(cls, data: bytes, mode: int) -> "File":
        """A file with this content."""
        try:
            return cls(data.decode(), mode)
        except UnicodeDecodeError:
            return cls(base64.b64encode(data).decode(), mode, encoded=True)


Content = Nothing | Folder | Link | File
NOTHING = Nothing()


class FileWrite(msgspec.Struct, frozen=True):
    """One path, as it was and as it is to be."""

    path: str
    before: Content
    after: Content
    by_lines: bool = False
    """Only the lines that differ are written; what else stands there may change meanwhile."""

    @property
    def undone(self) -> "FileWrite":
        """The inverse write."""
        return FileWrite(self.path, self.after, self.before, self.by_lines)

    @property
    def makes_folder(self) -> bool:
        """Whether it makes a folder where there was nothing."""
        return self.before == NOTHING and isinstance(self.after, Folder)


class ChangedSince(Exception):
    """Another program wrote there: its content is neither the one before nor the one after."""

    def __init__(self, path: str) -> None:
        super().__init__(path)
        self.path = path


def content_of(path: Path) -> Content:
    """What is at a path now. Raises OSError, also for a device and for a file that is too large."""
    if str(path) == OWN_TABLE:
        table = read_own_table()
        return NOTHING if table is None else File.of(table, OWN_TABLE_MODE)
    try:
        status = os.lstat(path)
    except (FileNotFoundError, NotADirectoryError):
        return NOTHING
    if stat.S_ISDIR(status.st_mode):
        return Folder()
    if stat.S_ISLNK(status.st_mode):
        return Link(os.readlink(path))
    data = read_bounded(path, LARGEST_BYTES + 1)
    if len(data) > LARGEST_BYTES:
        raise OSError(errno.EFBIG, os.strerror(errno.EFBIG), str(path))
    return File.of(data, stat.S_IMODE(status.st_mode))


def carry_out(write: FileWrite) -> None:
    """Apply a write atomically and sync it to disk; a write that is already there changes nothing.

    Raises:
        ChangedSince: something else is there.
        OSError: it could not be written.
    """
    path = Path(write.path)
    there = content_of(path)
    after: Content = write.after
    if there not in (write.before, after):
        if not write.by_lines:
            raise ChangedSince(write.path)
        after = _with_its_lines(write, there)
    if there == after:
        return
    match after:
        case File() as file if write.path == OWN_TABLE:
            put_own_table(file.data)
        case Nothing() if isinstance(there, Folder):
            remove_folder(path)  # others may have put something there
        case Nothing():
            remove(path)
        case Folder():
            make_folder(path, EVERYBODY_ENTERS)
            sync_folder(path.parent)
        case Link(target):
            put_link(path, Path(target), over_a_file=True)
        case File(_, mode) as file:
            write_whole(path, file.data, mode=mode)


def _with_its_lines(write: FileWrite, there: Content) -> File:
    """What is there, with the lines of a write as they are after it.

    Raises ChangedSince where such a line is not there any more, or where another account could
    have written the others: they would be written anew, and be the writer's own from then on.
    """
    before, after = write.before, write.after
    if not (isinstance(before, File) and isinstance(after, File) and isinstance(there, File)):
        raise ChangedSince(write.path)
    pairs = zip(before.text.split("\n"), after.text.split("\n"), strict=False)
    becomes = {line: then for line, then in pairs if line != then}
    lines = there.text.split("\n")
    missing = [line for line, then in becomes.items() if not {line, then} & set(lines)]
    own = write.path == OWN_TABLE or only_changed_by(os.geteuid())(os.lstat(write.path))
    if missing or there.encoded or not own:
        raise ChangedSince(write.path)
    return File("\n".join(becomes.get(line, line) for line in lines), there.mode)


def sweep(write: FileWrite) -> None:
    """Remove temporary files that a write killed in the middle has left beside its path. Raises
    OSError.
    """
    if write.path == OWN_TABLE:
        return  # its program tidies up after itself
    for left in half_written_in(Path(write.path).parent):
        remove(left)


def folders_for(path: Path) -> list[FileWrite]:
    """Writes that create the missing parent folders of a path, the outermost first."""
    missing = [place for place in path.parents if not os.path.lexists(place)]
    return [FileWrite(str(place), NOTHING, Folder()) for place in reversed(missing)]


def write_of(path: Path, after: Content) -> list[FileWrite]:
    """The write that gives a path this content; None where it has it already. Raises OSError."""
    before = content_of(path)
    if before == after:
        return []
    folders = [] if isinstance(after, Nothing) else folders_for(path)
    return [*folders, FileWrite(str(path), before, after)]
