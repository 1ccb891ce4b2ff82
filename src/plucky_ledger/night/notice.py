"""Notice of a running night shift and how to end it: on the text sign-in screen, and in the user's
session.
"""

import logging
import shutil
import subprocess
from pathlib import Path

from plucky_ledger.linux.files import make_folder, remove, write_whole
from plucky_ledger.linux.notifications import notify, plain

ISSUE = Path("/run/issue.d/plucky-ledger.issue")
"""Shown above the text sign-in, and gone with the boot; agetty(8)."""
ANSWERS_WITHIN_SECONDS = 5.0
log = logging.getLogger(__name__)


def show(text: str, user: int, issue: Path = ISSUE) -> None:
    """Show the notice on the text sign-in screen; a PC without one shows nothing."""
    try:
        make_folder(issue.parent, 0o755)
        write_whole(issue, f"{plain(text)}\n\n".encode(), mode=0o644)
    except OSError as error:
        log.warning("not shown on the sign-in screen: %s", error)
    _reload_sign_in()
    notify(text, user)


def hide(issue: Path = ISSUE) -> None:
    """Remove the notice."""
    try:
        if remove(issue):
            _reload_sign_in()
    except OSError as error:
        log.warning("still on the sign-in screen: %s", error)


def _reload_sign_in() -> None:
    """Have sign-in screens that wait already read the text again."""
    agetty = shutil.which("agetty")
    if agetty is not None:
        try:
            subprocess.run(
                [agetty, "--reload"],
                check=False,
                capture_output=True,
                timeout=ANSWERS_WITHIN_SECONDS,
            )
        except (OSError, subprocess.TimeoutExpired) as error:
            log.info("sign-in screens were not told: %s", error)
