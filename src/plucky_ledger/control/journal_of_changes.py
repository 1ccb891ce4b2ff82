"""The journal of changes: everything written to a PC is written down first, and stays written down.

One file a change, readable by a person, in a folder of the one who makes it: the administrator's
for the system, the user's for the rest. It needs no ledger: what is here can be put back.

A file is believed where only its owner could have written it, and where every write in it is one
that may be made. Any other is named and set beside, and everything else goes on.
"""

import logging
import os
from collections.abc import Container, Iterator
from contextlib import contextmanager, suppress
from enum import StrEnum
from fcntl import LOCK_EX, flock
from pathlib import Path

import msgspec

from plucky_ledger.control.permitted_writes import PermittedWrites
from plucky_ledger.control.writes import FileWrite
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.values.reasons import Reason, ReasonCode
from plucky_ledger.linux.files import make_folder, remove, rename, show_to_all, write_whole
from plucky_ledger.linux.trusted_files import read_trusted

LARGEST_BYTES = 16 << 20
MOST_CHANGES = 10_000
VERSION = 1
"""Version of the file format; a file of a newer version is left for a newer program."""
ENDING, UNREADABLE = ".json", ".unreadable"
LOCK = "lock"
log = logging.getLogger(__name__)


class ChangeStage(StrEnum):
    """Stage of an entry's change. One that stays at "begun" or "going back" was interrupted."""

    BEGUN = "begun"
    DONE = "done"
    GOING_BACK = "going_back"
    PUT_BACK = "put_back"


CUT_OFF = frozenset({ChangeStage.BEGUN, ChangeStage.GOING_BACK})


class EntryChange(msgspec.Struct, frozen=True):
    """The writes of one entry, and their stage."""

    entry: str
    name: str
    before: EntryState | None
    after: EntryState
    writes: tuple[FileWrite, ...]
    stage: ChangeStage = ChangeStage.BEGUN
    by_others: str = ""
    """Path that another program has written to since: it was left as it is."""


class RecordedChange(msgspec.Struct, frozen=True):
    """One recorded transaction: the changes that were made together."""

    key: str
    """UUID of the posting it belongs to, so that nothing is done twice."""
    at: str
    """When, in UTC."""
    by: str
    """Name of the user who requested it."""
    job: str
    """Label of the job."""
    entries: tuple[EntryChange, ...]
    version: int = VERSION

    @property
    def cut_off(self) -> bool:
        """Whether making or undoing it was interrupted."""
        return any(entry.stage in CUT_OFF for entry in self.entries)

    def at_stage(self, index: int, stage: ChangeStage, by_others: str = "") -> "RecordedChange":
        """The same with one entry at another stage."""
        entries = list(self.entries)
        entries[index] = msgspec.structs.replace(entries[index], stage=stage, by_others=by_others)
        return msgspec.structs.replace(self, entries=tuple(entries))

    def without_folders(self, gone: Container[str]) -> "RecordedChange":
        """The same without the folders of these paths that were made for what is put back."""
        entries = tuple(
            msgspec.structs.replace(
                entry,
                writes=tuple(w for w in entry.writes if not (w.makes_folder and w.path in gone)),
            )
            if entry.stage is ChangeStage.PUT_BACK
            else entry
            for entry in self.entries
        )
        return msgspec.structs.replace(self, entries=entries)


class LeftOut(msgspec.Struct, frozen=True):
    """A journal file that is not trusted."""

    path: str
    why: Reason
    damaged: bool = False
    """It is no change at all, and is set beside; any other stays where it is."""


class JournalOfChanges:
    """The journal of one scope. Raises OSError where it cannot be written."""

    def __init__(
        self, folder: Path, owner: int, permitted: PermittedWrites, mode: int = 0o600
    ) -> None:
        self.folder = folder
        self._owner, self._permitted, self._mode = owner, permitted, mode
        self.left_out: tuple[LeftOut, ...] = ()
        """Files that were left out when it was read last."""

    @property
    def _folder_mode(self) -> int:
        return 0o755 if self._mode & 0o044 else 0o700

    @contextmanager
    def locked(self) -> Iterator[None]:
        """A lock: no other process changes anything meanwhile."""
        make_folder(self.folder, self._folder_mode)
        if self._folder_mode & 0o005:
            show_to_all(self.folder.parent)
            show_to_all(self.folder)
        descriptor = os.open(self.folder / LOCK, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o600)
        try:
            flock(descriptor, LOCK_EX)
            yield
        finally:
            os.close(descriptor)

    def read(self) -> list[tuple[Path, RecordedChange]]:
        """All trusted changes, the oldest first."""
        read = [(path, self._read(path)) for path in self._paths()]
        self.left_out = tuple(one for _, one in read if isinstance(one, LeftOut))
        return [(path, one) for path, one in read if isinstance(one, RecordedChange)]

    def _read(self, path: Path) -> RecordedChange | LeftOut:
        try:
            data = read_trusted(path, LARGEST_BYTES + 1, self._owner)
        except PermissionError:
            return LeftOut(str(path), Reason(ReasonCode.OTHERS_MAY_WRITE_IT))
        except OSError as error:
            return LeftOut(str(path), Reason.of(ReasonCode.UNREADABLE, system=error.strerror or ""))
        if len(data) > LARGEST_BYTES:
            return LeftOut(str(path), Reason(ReasonCode.TOO_LARGE), damaged=True)
        try:
            if msgspec.json.decode(data, type=_Versioned).version > VERSION:
                return LeftOut(str(path), Reason(ReasonCode.OF_A_NEWER_VERSION))
            change = msgspec.json.decode(data, type=RecordedChange)
        except (msgspec.DecodeError, UnicodeDecodeError, RecursionError):
            return LeftOut(str(path), Reason(ReasonCode.NO_JOURNAL_OF_CHANGES), damaged=True)
        if not all(self._permitted.permit(entry.writes) for entry in change.entries):
            return LeftOut(str(path), Reason(ReasonCode.WRITES_ELSEWHERE))
        return change

    def set_damaged_beside(self) -> None:
        """Files that are no changes get another name, so that nobody reads them again. Call it
        with the journal locked and read.
        """
        for one in self.left_out:
            log.warning("left out: %s (%s)", one.path, one.why.code)
            if one.damaged:
                with suppress(OSError):  # it is left out all the same
                    rename(Path(one.path), Path(one.path + UNREADABLE))

    def _paths(self) -> list[Path]:
        try:
            names = os.listdir(self.folder)
        except OSError:
            return []
        numbered = sorted(name for name in names if name.endswith(ENDING))
        return [self.folder / name for name in numbered[:MOST_CHANGES]]

    def begin(self, change: RecordedChange) -> Path:
        """Write a change down before it is made; returns where."""
        numbers = (path.stem.partition("-")[0] for path in self._paths())
        last = max((int(number) for number in numbers if number.isdecimal()), default=0)
        path = self.folder / f"{last + 1:06}-{change.at[:10]}{ENDING}"
        self.keep(path, change)
        return path

    def keep(self, path: Path, change: RecordedChange) -> None:
        """Write down how a change stands."""
        text = msgspec.json.format(msgspec.json.encode(change), indent=2) + b"\n"
        write_whole(path, text, mode=self._mode)

    def forget(self, path: Path) -> None:
        """Remove a change that made no write."""
        remove(path)


class _Versioned(msgspec.Struct, frozen=True):
    """The part of a file that is decoded first."""

    version: int = VERSION
