"""Desktop entries that start at sign-in, with the override rules of the freedesktop specification.

Of entries with the same file name the one in the more important folder wins, the user's before the
system's. Autostart Specification 0.5.
"""

import os
import shutil
from collections.abc import Sequence
from pathlib import Path

from plucky_ledger.core.pc.arming import NO_ENTRIES
from plucky_ledger.core.reasons import ReasonCode
from plucky_ledger.linux.desktop_entries import DesktopEntry, read_desktop_entry
from plucky_ledger.recording.lines import EntryLine, Said, bounded, said

MOST_ENTRIES = 2_000


def autostart_entries(folders: Sequence[Path], desktops: Sequence[str]) -> list[EntryLine]:
    """Every sign-in program, those that do not start among them with the reason.

    ``folders`` are where they lie, the most important first.
    """
    winners: dict[str, Path] = {}
    for folder in folders:
        try:
            names = sorted(
                name
                for name in os.listdir(folder)
                if name.endswith(".desktop") and name not in NO_ENTRIES
            )
        except OSError:
            continue
        for name in names[:MOST_ENTRIES]:
            winners.setdefault(name, folder / name)
    return [_line(read_desktop_entry(path), folders[0], desktops) for path in winners.values()]


def _line(entry: DesktopEntry, own_folder: Path, desktops: Sequence[str]) -> EntryLine:
    missing = bool(entry.program) and shutil.which(entry.program) is None
    return EntryLine(
        entry=bounded(entry.path.name),
        name=bounded(entry.values.get("Name") or entry.path.stem),
        owner="user" if entry.path.parent == own_folder else "system",
        starts="sign-in program",
        origin=bounded(str(entry.path)),
        command=bounded(entry.values.get("Exec", "")),
        part_of_system=entry.is_true("NoDisplay") and not missing,
        left_behind=missing,
        off=_off_because(entry, desktops),
        description=bounded(entry.values.get("Comment", "")),
    )


def _off_because(entry: DesktopEntry, desktops: Sequence[str]) -> Said | None:
    """Why an entry does not start; None when it does."""
    if entry.fault is not None:
        return said(entry.fault.code, **entry.fault.facts)
    if entry.is_true("Hidden"):
        return said(ReasonCode.HIDDEN)
    if entry.values.get("X-GNOME-Autostart-enabled") == "false":
        return said(ReasonCode.SWITCHED_OFF)
    shown = set(entry.listed("OnlyShowIn"))
    if shown and not shown & set(desktops):
        return said(ReasonCode.ONLY_FOR_DESKTOPS, desktops=", ".join(sorted(shown)))
    if set(entry.listed("NotShowIn")) & set(desktops):
        return said(ReasonCode.NOT_FOR_DESKTOPS, desktops=", ".join(desktops))
    wanted = entry.values.get("TryExec", "")
    if wanted and shutil.which(wanted) is None:
        return said(ReasonCode.PROGRAM_NOT_THERE, program=wanted)
    if not entry.values.get("Exec") and not entry.is_true("DBusActivatable"):
        return said(ReasonCode.NOTHING_TO_START)
    return None
