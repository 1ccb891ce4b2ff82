"""Why no window can be opened here: a library of the system is missing, or the display."""

import os

from plucky_ledger.core.values.trouble import Trouble, TroubleCode
from plucky_ledger.linux.window_libraries import install_command, missing_libraries


def library_missing() -> Trouble | None:
    """Which libraries a window lacks, and what installs them; None where none is missing."""
    missing = missing_libraries()
    if not missing:
        return None
    names, command = ", ".join(missing), install_command(missing)
    return Trouble(TroubleCode.LIBRARY_MISSING, library=names, command=command)


def display_unreachable() -> Trouble:
    """The display that was named cannot be reached."""
    display = os.environ.get("WAYLAND_DISPLAY") or os.environ.get("DISPLAY") or ""
    return Trouble(TroubleCode.DISPLAY_UNREACHABLE, display=display)
