"""Notifications in a user's session. Desktop Notifications Specification, `Notify`."""

import logging

from plucky_ledger.core.values.trouble import Trouble
from plucky_ledger.linux.as_user import as_user
from plucky_ledger.linux.bus import Address, NoAnswer, opened
from plucky_ledger.linux.users import is_administrator

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
    """The text without escapes and cursor movements, as any screen can show it."""
    printable = "".join(char if char.isprintable() and char != "\\" else " " for char in text)
    return printable[:LONGEST]


def notify(text: str, user: int) -> None:
    """Show it in a user's session; where there is none, or nothing that shows it, only the log
    knows. The administrator asks as that user.
    """
    try:
        if is_administrator():
            told = as_user(user, lambda _folders: shown(plain(text)), bool, ANSWERS_WITHIN_SECONDS)
        else:
            told = shown(plain(text))
    except (Trouble, OSError) as trouble:
        log.info("not shown in the session: %s", trouble)
    else:
        log.info("shown in the session: %s", told)


def shown(text: str, bus_address: str = "SESSION") -> bool:
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
