"""Sign-in programs: desktop entries that start at sign-in, by the rules of the specification.

Of entries with the same file name the one in the more important folder wins, the user's before the
system's. Autostart Specification 0.5, and systemd-xdg-autostart-generator(8) where it is stricter.
"""

import os
import shutil
from collections.abc import Sequence
from pathlib import Path

from plucky_ledger.core.pc.arming import NO_ENTRIES
from plucky_ledger.core.values.reasons import Reason, ReasonCode
from plucky_ledger.linux.desktop_entries import DesktopEntry

MOST_ENTRIES = 2_000
APPLICATION = "Application"


def sign_in_programs(folders: Sequence[Path]) -> dict[str, Path]:
    """The file that counts of every sign-in program, by file name.

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
    return winners


def off_because(entry: DesktopEntry, desktops: Sequence[str]) -> Reason | None:
    """Why an entry does not start; None when it does."""
    if entry.fault is not None:
        return entry.fault
    if entry.values.get("Type") != APPLICATION:
        return Reason.of(ReasonCode.NO_APPLICATION)
    if entry.is_true("Hidden"):
        return Reason.of(ReasonCode.HIDDEN)
    if entry.values.get("X-GNOME-Autostart-enabled") == "false":
        return Reason.of(ReasonCode.SWITCHED_OFF)
    shown = set(entry.listed("OnlyShowIn"))
    if shown and not shown & set(desktops):
        return Reason.of(ReasonCode.ONLY_FOR_DESKTOPS, desktops=", ".join(sorted(shown)))
    if set(entry.listed("NotShowIn")) & set(desktops):
        return Reason.of(ReasonCode.NOT_FOR_DESKTOPS, desktops=", ".join(desktops))
    program = entry.values.get("TryExec", "")
    if program and shutil.which(program) is None:
        return Reason.of(ReasonCode.PROGRAM_NOT_THERE, program=program)
    if not entry.values.get("Exec"):
        return Reason.of(ReasonCode.NOTHING_TO_START)
    return None
