"""Recordings on their way: kept on the PC first, and brought to the stick as soon as it is there.

They are never written to the stick while a PC is recorded: a stick is slow, and may be pulled.
"""

import errno
import gzip
import json
import os
import time
import zlib
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path

from plucky_ledger.core.values.trouble import Trouble, TroubleCode
from plucky_ledger.linux.administrator import who_asks
from plucky_ledger.linux.files import make_folder, read_bounded
from plucky_ledger.linux.this_boot import boot_id
from plucky_ledger.linux.trusted_files import only_the_administrator_changes
from plucky_ledger.linux.users import ADMINISTRATOR, acting_as, home_of, is_administrator
from plucky_ledger.recording.limits import LARGEST_FILE
from plucky_ledger.recording.pc_folder import ABOUT, about_this_pc, name_of_this_pc
from plucky_ledger.stick.putting import put

ON_THE_PC = ".local/share/plucky-ledger/from-stick"
"""Below the home folder of the person at the PC."""
ON_THE_STICK = "plucky-ledger-recordings"
ENDINGS = (".jsonl.gz", ".jsonl")
QUIET_SECONDS = 30.0


@dataclass(frozen=True)
class Brought:
    """What came of bringing recordings to the stick."""

    there: tuple[Path, ...] = ()
    """Recordings that are on the stick now."""
    left: int = 0
    """Recordings that stay on the PC."""
    why: Trouble | None = None
    """Why they stay."""
    folder: Path = field(default_factory=Path)


def person() -> int:
    """Whose recordings they are: the person at the PC, also where the administrator was asked."""
    asked = who_asks(os.environ) if is_administrator() else None
    return os.geteuid() if asked is None else asked


def folder_on_the_pc() -> Path:
    """Where recordings are kept. Raises Trouble where the person has no home folder."""
    return home_of(person()) / ON_THE_PC


def made_on_the_pc() -> Path:
    """The same, made where it is missing, as the person's. Raises Trouble."""
    folder = folder_on_the_pc()
    try:
        with acting_as(person()):
            make_folder(folder)
    except OSError as error:
        raise Trouble(
            TroubleCode.NOTHING_RECORDED, path=str(folder), system=error.strerror or ""
        ) from error
    return folder


def bring(stick: Path) -> Brought:
    """Move finished recordings to the stick, whose folder this is, one after the other.

    One is taken from the PC only when the stick has it whole; one that is still written to stays.
    Nothing is lost where the stick is full, pulled or cannot be written to.
    """
    to = stick / ON_THE_STICK / name_of_this_pc()
    there: list[Path] = []
    waiting = [(user, path) for user, folder in _folders() for path in _finished(user, folder)]
    writer = _who_writes_to(stick)
    for number, (user, path) in enumerate(waiting):
        try:
            with acting_as(user):
                data = _all_of(path)
            with acting_as(writer):
                _about_this_pc(to)
                place = _place(to / path.name, data)
                put(place, data)
            there.append(place)
            with acting_as(user):
                path.unlink()
        except OSError as error:
            why = Trouble(TroubleCode.FILE_NOT_WRITTEN, path=str(to), system=error.strerror or "")
            return Brought(tuple(there), len(waiting) - number, why, to)
    _leave_nothing()
    return Brought(tuple(there), folder=to)


def _leave_nothing() -> None:
    """Folders that were made for recordings go with the last of them."""
    for user, folder in _folders():
        with acting_as(user), suppress(OSError):
            for empty in (folder, *folder.parents)[: len(Path(ON_THE_PC).parts)]:
                empty.rmdir()


def _folders() -> Iterator[tuple[int, Path]]:
    """The person's, and for the administrator their own as well, who may have asked before; each
    with whose it is.
    """
    users = {person(), ADMINISTRATOR} if is_administrator() else {person()}
    for user in sorted(users, reverse=True):
        with suppress(Trouble):
            yield user, home_of(user) / ON_THE_PC


def _who_writes_to(stick: Path) -> int:
    """The person, where they can: what is on the stick may lead the administrator anywhere. The
    administrator only where nobody else has put anything there.
    """
    with acting_as(person()):
        if os.access(stick, os.W_OK, effective_ids=True):
            return person()
    return ADMINISTRATOR if only_the_administrator_changes(stick) else person()


def _finished(user: int, folder: Path) -> list[Path]:
    """A user's recordings that nothing writes to any more, looked at as that user."""
    with acting_as(user):
        try:
            found = sorted(path for path in folder.iterdir() if path.name.endswith(ENDINGS))
            plain = [path for path in found if not path.is_symlink() and path.is_file()]
        except OSError:
            return []
        return [path for path in plain if not _is_written_to(path)]


def _all_of(path: Path) -> bytes:
    """The whole of a plain file that is no larger than a recording may be. Raises OSError."""
    data = read_bounded(path, LARGEST_FILE + 1)
    if len(data) > LARGEST_FILE:
        raise OSError(errno.EFBIG, os.strerror(errno.EFBIG), str(path))
    return data


def _is_written_to(path: Path) -> bool:
    """Whether an armed recorder may be at work on it, also one of the administrator's, which nobody
    else sees: it writes at least every ten seconds.
    """
    try:
        changed = path.stat().st_mtime
    except OSError:
        return True
    lately = abs(time.time() - changed) < QUIET_SECONDS
    return lately and path.name.startswith(f"boot-{boot_id()}.") and not _has_ended(path)


def _has_ended(path: Path) -> bool:
    """Whether a recording has its last end record, and no look at what comes later follows."""
    try:
        with gzip.open(path) as file:
            text = file.read(LARGEST_FILE)
        end = json.loads(text.rstrip().rpartition(b"\n")[2])
    except (OSError, EOFError, ValueError, zlib.error, RecursionError):
        return False
    return isinstance(end, dict) and end.get("kind") == "end" and not end.get("goes_on")


def _place(whole: Path, data: bytes) -> Path:
    """The name, or one with a number where another recording has it already."""
    number, name = 1, whole
    while name.exists() and name.read_bytes() != data:
        number += 1
        name = whole.with_name(f"{number}-{whole.name}")
    return name


def _about_this_pc(folder: Path) -> None:
    """Make the PC's folder, which says what it is of. Raises OSError."""
    folder.mkdir(parents=True, exist_ok=True)
    facts = about_this_pc()
    about = folder / ABOUT
    if not about.exists() or about.read_bytes() != facts:  # one may be left torn, or of old
        put(about, facts)
