"""The file of a night shift's plan: written in place, so that a full disk does not lose it.

Room for two plans of the largest size is taken when the night is begun. They are written in turns,
each with a count and a digest: one that was cut off leaves the other. When the night is over, the
same file goes under another name to the journals, as its report.
"""

import hashlib
import os
from pathlib import Path

import msgspec

from plucky_ledger.linux.files import make_folder, remove, rename, write_whole
from plucky_ledger.linux.folders import Folders
from plucky_ledger.linux.this_boot import LONGEST
from plucky_ledger.linux.trusted_files import read_trusted
from plucky_ledger.night.plan import MOST_CUT, MOST_UNRECORDED, Booted, NightPlan

LARGEST_BYTES = 200_000
"""Of one plan."""
READ_BY_ALL = 0o644
_SLOTS = 2
_DIGEST, _COUNT, _HEAD = 64, 74, 84
"""Where the digest, the count and the length end that stand before a plan."""


def plan_path(folders: Folders) -> Path:
    """Where the plan of the night shift that goes on lies."""
    return folders.administrators / "night-shift.plan"


def report_path(folders: Folders) -> Path:
    """Where the plan of the last night shift lies, with what became of it."""
    return folders.journal_of_the_system / "night-shift.report"


def read_plan(folders: Folders) -> NightPlan | None:
    """The night shift that goes on; None where there is none to be read."""
    return _read(plan_path(folders))


def last_night(folders: Folders) -> NightPlan | None:
    """The night shift that goes on, or else the last; None where there was none."""
    return read_plan(folders) or _read(report_path(folders))


def take_room(folders: Folders) -> None:
    """Allocate the disk space that the plan needs at most. Raises OSError where there is not
    enough.
    """
    path = plan_path(folders)
    make_folder(path.parent, 0o755)
    write_whole(path, b" " * (_SLOTS * LARGEST_BYTES), mode=READ_BY_ALL)


def fits(plan: NightPlan) -> bool:
    """Whether the plan fits into its file with the most boots it can have."""
    most = len(plan.series) + MOST_CUT + MOST_UNRECORDED
    boots = (Booted(boot_id="x" * LONGEST, off=plan.entries),) * most
    at_most = msgspec.structs.replace(plan, boots=boots, left=plan.entries)
    return _HEAD + len(msgspec.json.encode(at_most)) <= LARGEST_BYTES


def keep_plan(plan: NightPlan, folders: Folders) -> NightPlan:
    """Write how it stands, on the disk before anything else happens. Raises OSError."""
    path = plan_path(folders)
    data = msgspec.json.encode(plan)
    if len(data) + _HEAD > LARGEST_BYTES:
        data = msgspec.json.encode(msgspec.structs.replace(plan, left=()))
    newest = max((count for count, _ in _slots(_bytes_of(path))), default=0) + 1
    head = f"{newest:010}{len(data):010}".encode()
    slot = hashlib.sha256(head + data).hexdigest().encode() + head + data
    handle = os.open(path, os.O_WRONLY | os.O_NOFOLLOW | os.O_CLOEXEC)
    try:
        os.pwrite(handle, slot, (newest % _SLOTS) * LARGEST_BYTES)
        os.fdatasync(handle)
    finally:
        os.close(handle)
    return plan


def make_report(folders: Folders) -> None:
    """Rename the plan to the report. Needs no disk space. Raises OSError."""
    make_folder(folders.journal_of_the_system, 0o755)
    rename(plan_path(folders), report_path(folders))


def drop_plan(folders: Folders) -> None:
    """A night that was never begun leaves nothing. Raises OSError."""
    remove(plan_path(folders))


def _read(path: Path) -> NightPlan | None:
    for _, data in sorted(_slots(_bytes_of(path)), reverse=True):
        try:
            return msgspec.json.decode(data, type=NightPlan)
        except (msgspec.DecodeError, UnicodeDecodeError, RecursionError):
            continue
    return None


def _bytes_of(path: Path) -> bytes:
    """What only the administrator could have written there; nothing where there is none."""
    try:
        return read_trusted(path, _SLOTS * LARGEST_BYTES)
    except OSError:
        return b""


def _slots(held: bytes) -> list[tuple[int, bytes]]:
    """Counts and contents of the slots that are whole."""
    found = []
    for at in range(0, len(held), LARGEST_BYTES):
        slot = held[at : at + LARGEST_BYTES]
        digest, count, length = slot[:_DIGEST], slot[_DIGEST:_COUNT], slot[_COUNT:_HEAD]
        if count.isdigit() and length.isdigit():
            data = slot[_HEAD : _HEAD + int(length)]
            if hashlib.sha256(count + length + data).hexdigest().encode() == digest:
                found.append((int(count), data))
    return found
