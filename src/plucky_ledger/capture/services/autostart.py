"""Sign-in programs as lines of a recording."""

import shutil
from collections.abc import Sequence
from pathlib import Path

from plucky_ledger.core.entries.entry import EntryKind
from plucky_ledger.core.entries.kinds import KINDS
from plucky_ledger.linux.desktop_entries import DesktopEntry, read_desktop_entry
from plucky_ledger.linux.sign_in_programs import off_because, sign_in_programs
from plucky_ledger.recording.lines import EntryLine, bounded, said


def autostart_entries(folders: Sequence[Path], desktops: Sequence[str]) -> list[EntryLine]:
    """Every sign-in program, those that do not start among them with the reason.

    ``folders`` are where they lie, the most important first.
    """
    programs = sign_in_programs(folders)
    return [_line(read_desktop_entry(path), folders[0], desktops) for path in programs.values()]


def _line(entry: DesktopEntry, own_folder: Path, desktops: Sequence[str]) -> EntryLine:
    off = off_because(entry, desktops)
    missing = bool(entry.program) and shutil.which(entry.program) is None
    return EntryLine(
        entry=bounded(entry.path.name),
        name=bounded(entry.values.get("Name") or entry.path.stem),
        owner="user" if entry.path.parent == own_folder else "system",
        starts=KINDS[EntryKind.SIGN_IN_PROGRAM].recorded_as,
        origin=bounded(str(entry.path)),
        command=bounded(entry.values.get("Exec", "")),
        part_of_system=entry.is_true("NoDisplay") and not missing,
        left_behind=missing,
        off=said(off.code, **off.facts) if off else None,
        description=bounded(entry.values.get("Comment", "")),
    )
