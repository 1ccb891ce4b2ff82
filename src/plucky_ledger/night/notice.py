"""Notice of a running night shift and how to end it: on the text sign-in screen, and in the user's
session.
"""

import logging
import shutil
import subprocess
from pathlib import Path

from plucky_ledger.core.values.trouble import Trouble
from plucky_ledger.linux.as_user import as_user
from plucky_ledger.linux.bus import Address, NoAnswer, opened
from plucky_ledger.linux.files import make_folder, remove, write_whole

ISSUE = Path("/run/issue.d/plucky-ledger.issue")
"""Shown above the text sign-in, and gone with the boot; agetty(8)."""
LONGEST = 300
SHOWN_SECONDS = 120
ANSWERS_WITHIN_SECONDS = 5.0
NOTIFICATIONS = Address(
    "org.freedesktop.Notifications",
    "/org/freedesktop/Notifications",
    "org.freedesktop.Notifications",
)
log = logging.getLogger(__name__)


def plain(text: str) -> str:
    """The text without escapes and cursor movements, as a sign-in screen can show it."""
    printable = "".join(char if char.isprintable() and char != "\\" else " " for char in text)
    return printable[:LONGEST]


def show(text: str, user: int, issue: Path = ISSUE) -> None:
    """Show the notice on the text sign-in screen; a PC without one shows nothing."""
    try:
        make_folder(issue.parent, 0o755)
        write_whole(issue, f"{plain(text)}\n\n".encode(), mode=0o644)
    except OSError as error:
        log.warning("not shown on the sign-in screen: %s", error)
    _reload_sign_in()
    try:
        as_user(user, lambda _folders: notified(plain(text)), bool, ANSWERS_WITHIN_SECONDS)
    except Trouble as trouble:
        log.info("not shown in the session: %s", trouble)


def hide(issue: Path = ISSUE) -> None:
    """Remove the notice."""
    try:
        if remove(issue):
            _reload_sign_in()
    except OSError as error:
        log.warning("still on the sign-in screen: %s", error)


def notified(text: str, bus_address: str = "SESSION") -> bool:
    """Show it in the session of who runs this process; whether there was one."""
    call: tuple[object, ...] = (
        "Plucky Ledger",
        0,
        "",
        "Plucky Ledger",
        text,
        [],
        {"urgency": ("y", 2)},
        SHOWN_SECONDS * 1000,
    )
    try:
        with opened(bus_address, ANSWERS_WITHIN_SECONDS) as bus:
            bus.call(NOTIFICATIONS, "Notify", "susssasa{sv}i", call)
    except NoAnswer:
        return False
    return True


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
