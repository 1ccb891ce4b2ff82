"""The journal of changes: everything written to a PC is written down first, and stays written down.

One file a change, readable by a person, in a folder of the one who makes it: the administrator's
for the system, the user's for the rest. It needs no ledger: what is here can be put back.
"""

import os
from collections.abc import Container, Iterator
from contextlib import contextmanager
from enum import StrEnum
from fcntl import LOCK_EX, flock
from pathlib import Path

import msgspec

from plucky_ledger.control.writes import Write
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.linux.files import make_folder, read_bounded, remove, write_whole

LARGEST_BYTES = 16 << 20
MOST_CHANGES = 10_000
ENDING = ".json"
LOCK = "lock"


class Stage(StrEnum):
    """How far a change of one entry has come. Begun and going back are cut off where they stay."""

    BEGUN = "begun"
    DONE = "done"
    GOING_BACK = "going_back"
    PUT_BACK = "put_back"


CUT_OFF = frozenset({Stage.BEGUN, Stage.GOING_BACK})


class EntryChange(msgspec.Struct, frozen=True):
    """What was written for one entry, and how far that has come."""

    entry: str
    name: str
    before: EntryState | None
    after: EntryState
    writes: tuple[Write, ...]
    stage: Stage = Stage.BEGUN
    by_others: str = ""
    """Path that somebody else has written to since: it was left as it is."""


class Change(msgspec.Struct, frozen=True):
    """What was changed together."""

    key: str
    """Of the posting it belongs to: nothing is done twice."""
    at: str
    """When, in UTC."""
    by: str
    """User who wished it."""
    job: str
    """Label of the job."""
    entries: tuple[EntryChange, ...]

    @property
    def cut_off(self) -> bool:
        """Whether making or undoing it was cut off."""
        return any(entry.stage in CUT_OFF for entry in self.entries)

    def at_stage(self, index: int, stage: Stage, by_others: str = "") -> "Change":
        """The same with one entry at another stage."""
        entries = list(self.entries)
        entries[index] = msgspec.structs.replace(entries[index], stage=stage, by_others=by_others)
        return msgspec.structs.replace(self, entries=tuple(entries))

    def without_folders(self, gone: Container[str]) -> "Change":
        """The same without the folders of these paths that were made for what is put back."""
        entries = tuple(
            msgspec.structs.replace(
                entry,
                writes=tuple(w for w in entry.writes if not (w.makes_folder and w.path in gone)),
            )
            if entry.stage is Stage.PUT_BACK
            else entry
            for entry in self.entries
        )
        return msgspec.structs.replace(self, entries=entries)


class JournalOfChanges:
    """The changes of one who makes them. Raises OSError where it cannot be written."""

    def __init__(self, folder: Path, mode: int = 0o600) -> None:
        self.folder = folder
        self._mode = mode

    @contextmanager
    def locked(self) -> Iterator[None]:
        """Nobody else changes anything meanwhile."""
        make_folder(self.folder, 0o755 if self._mode & 0o044 else 0o700)
        descriptor = os.open(self.folder / LOCK, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o600)
        try:
            flock(descriptor, LOCK_EX)
            yield
        finally:
            os.close(descriptor)

    def read(self) -> list[tuple[Path, Change]]:
        """All changes, the oldest first; files that are none are left out."""
        changes = []
        for path in self._paths():
            try:
                data = read_bounded(path, LARGEST_BYTES)
                changes.append((path, msgspec.json.decode(data, type=Change)))
            except (OSError, msgspec.DecodeError):
                continue
        return changes

    def _paths(self) -> list[Path]:
        try:
            names = os.listdir(self.folder)
        except OSError:
            return []
        numbered = sorted(name for name in names if name.endswith(ENDING))
        return [self.folder / name for name in numbered[:MOST_CHANGES]]

    def begin(self, change: Change) -> Path:
        """Write a change down before it is made; returns where."""
        last = max((int(path.stem.split("-")[0]) for path in self._paths()
                    if path.stem.split("-")[0].isdecimal()), default=0)  # fmt: skip
        path = self.folder / f"{last + 1:06}-{change.at[:10]}{ENDING}"
        self.keep(path, change)
        return path

    def keep(self, path: Path, change: Change) -> None:
        """Write down how a change stands."""
        text = msgspec.json.format(msgspec.json.encode(change), indent=2) + b"\n"
        write_whole(path, text, mode=self._mode)

    def forget(self, path: Path) -> None:
        """A change that came to nothing."""
        remove(path)
