"""What tells this PC from others: the machine's own id, the bus's, or the hardware's.

The same for every user: only what all may read is used. machine-id(5); D-Bus Specification, UUIDs.
"""

import hashlib
import re
from functools import cache
from pathlib import Path

ROOT = Path("/")
IDS = ("etc/machine-id", "var/lib/dbus/machine-id")
_ID = re.compile(r"[0-9a-f]{32}")
_GIVEN_BY_ITS_MAKER = re.compile(r"[0-9a-f][048c](:[0-9a-f]{2}){5}")
"""An address of a network card that was not made up: neither of the two low bits is set."""


@cache
def machine_identity(root: Path = ROOT) -> str:
    """Name of this PC, the same in every boot; empty where nothing tells it.

    The machine's own id is not to be given to others as it is, so it is hashed with our name.
    """
    own = next(filter(None, (_id_in(root / path) for path in IDS)), "") or _of_the_hardware(root)
    return hashlib.sha256(f"plucky-ledger {own}".encode()).hexdigest()[:32] if own else ""


def _id_in(path: Path) -> str:
    text = _text(path)
    return text if _ID.fullmatch(text) and text.strip("0") else ""


def _of_the_hardware(root: Path) -> str:
    """Serial number of the board, or else the names of what is built in: cards, drives."""
    board = _text(root / "proc/device-tree/serial-number").strip("\0")
    cards = {
        _text(card / "address")
        for card in _built_in(root / "sys/class/net")
        if _GIVEN_BY_ITS_MAKER.fullmatch(_text(card / "address"))
    }
    drives = {
        _text(drive / path)
        for drive in _built_in(root / "sys/block")
        for path in ("wwid", "device/wwid", "device/cid")
    }
    return next((" ".join(sorted(ids)) for ids in ({board}, cards, drives - {""}) if any(ids)), "")


def _built_in(folder: Path) -> list[Path]:
    """Devices of a class that are neither made up by the kernel nor plugged in from outside."""
    try:
        devices = sorted(folder.iterdir())
    except OSError:
        return []
    return [
        device
        for device in devices
        if (device / "device").exists() and "/usb" not in str((device / "device").resolve())
    ]


def _text(path: Path) -> str:
    try:
        return path.read_text(errors="replace").strip()
    except OSError:
        return ""
