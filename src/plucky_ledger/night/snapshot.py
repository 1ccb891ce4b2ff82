"""Snapshot of everything a night shift may change, and what differs from it at the end.

Unit files, links, drop-ins and desktop entries byte for byte, and how the units are set.
"""

import hashlib
import os
import stat
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import TypeVar

import msgspec

from plucky_ledger.control.scope import Scope
from plucky_ledger.core.entries.kinds import is_users_own
from plucky_ledger.core.pc.arming import NIGHT_SHIFT, OWN_STARTER
from plucky_ledger.core.values.trouble import Trouble
from plucky_ledger.linux.as_user import as_user
from plucky_ledger.linux.files import read_bounded, remove, write_whole
from plucky_ledger.linux.folders import Folders
from plucky_ledger.linux.trusted_files import read_trusted
from plucky_ledger.night.plan import NightPlan

LARGEST_BYTES = 8 << 20
MOST_FILES = 20_000
LARGEST_FILE = 1 << 20
OWN = (OWN_STARTER, NIGHT_SHIFT.partition(".")[0])
"""Prefixes of our own starters' names: these come and go."""
T = TypeVar("T")


class LevelSnapshot(msgspec.Struct, frozen=True):
    """What one level holds."""

    files: dict[str, str]
    """What is at each path: a folder, where a link leads, or mode and digest of a file."""
    states: dict[str, str]
    """How entries are set, by their ids; those that cannot be told are left out."""


class Snapshot(msgspec.Struct, frozen=True):
    """Both levels; the user's is None where it could not be looked at."""

    system: LevelSnapshot
    user: LevelSnapshot | None


def take(plan: NightPlan, folders: Folders) -> Snapshot:
    """Snapshot of the present state."""
    own = [entry for entry in plan.entries if is_users_own(entry)]
    others = [entry for entry in plan.entries if not is_users_own(entry)]

    def of_the_user(theirs: Folders) -> LevelSnapshot:
        return _level(
            Scope("user", theirs), (theirs.user_units, theirs.autostart, theirs.own_bus_files), own
        )

    roots = (folders.system_units, folders.system_bus_files, folders.etc / "cron.d")
    system = _level(Scope("system", folders), roots, others)
    return Snapshot(
        system, _unless_in_trouble(lambda: as_user(plan.user, of_the_user, LevelSnapshot))
    )


def differences(before: Snapshot, now: Snapshot) -> tuple[str, ...]:
    """Paths and entries that differ; what could not be looked at both times is left out."""
    found: set[str] = set()
    for was, is_now in ((before.system, now.system), (before.user, now.user)):
        if was is None or is_now is None:
            continue
        paths = was.files.keys() | is_now.files.keys()
        found |= {path for path in paths if was.files.get(path) != is_now.files.get(path)}
        both = was.states.keys() & is_now.states.keys()
        found |= {entry for entry in both if was.states[entry] != is_now.states[entry]}
    return tuple(sorted(found))


def path_of(folders: Folders) -> Path:
    """Where the snapshot of the beginning lies."""
    return folders.administrators / "night-shift-before.json"


def keep(snapshot: Snapshot, folders: Folders) -> None:
    """Save the snapshot. Raises OSError."""
    write_whole(path_of(folders), msgspec.json.encode(snapshot))


def read(folders: Folders) -> Snapshot | None:
    """The snapshot of the beginning; None where there is none that is trusted."""
    try:
        data = read_trusted(path_of(folders), LARGEST_BYTES)
        return msgspec.json.decode(data, type=Snapshot)
    except (OSError, msgspec.DecodeError, UnicodeDecodeError, RecursionError):
        return None


def drop(folders: Folders) -> None:
    """Remove it. Raises OSError."""
    remove(path_of(folders))


def _level(place: Scope, roots: Iterable[Path], entries: list[str]) -> LevelSnapshot:
    files: dict[str, str] = {}
    for root in roots:
        files |= _files_below(root)
    found = place.look(entries) if entries else []
    return LevelSnapshot(
        files, {one.entry_id: one.state.value for one in found if one.state is not None}
    )


def _files_below(root: Path) -> dict[str, str]:
    told: dict[str, str] = {}
    for folder, folders, files in os.walk(root):
        for name in (*folders, *files):
            if len(told) < MOST_FILES and not name.startswith(OWN):
                path = os.path.join(folder, name)
                told[_text(path)] = _told_of(path)
    return told


def _told_of(path: str) -> str:
    try:
        status = os.lstat(path)
        if stat.S_ISDIR(status.st_mode):
            return "folder"
        if stat.S_ISLNK(status.st_mode):
            return f"link to {_text(os.readlink(path))}"
        digest = hashlib.sha256(read_bounded(Path(path), LARGEST_FILE)).hexdigest()
    except OSError as error:
        return f"unreadable: {error.errno}"
    return f"{stat.S_IMODE(status.st_mode):o} {digest}"


def _text(path: str) -> str:
    return os.fsencode(path).decode("utf-8", "backslashreplace")


def _unless_in_trouble(work: Callable[[], T]) -> T | None:
    try:
        return work()
    except Trouble:
        return None
