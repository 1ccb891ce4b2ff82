"""Lines of the table of file systems, by the units that are made of them. fstab(5),
systemd.mount(5), systemd-escape(1).
"""

from collections.abc import Mapping
from pathlib import Path

from plucky_ledger.linux.start_files.found import Reading

FSTAB = "etc/fstab"
_AS_IT_IS = frozenset("abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789:_.")
_WRITTEN = {"\\040": " ", "\\011": "\t", "\\012": "\n", "\\134": "\\"}
"""How the table writes what would end a field."""


def fstab_lines(root: Path) -> Mapping[str, str]:
    """Lines that mount something, or use it for swap, by the names of their units."""
    found = {}
    for line in Reading().text(root / FSTAB).splitlines():
        fields = line.split()
        if len(fields) < 3 or fields[0].startswith("#"):
            continue
        device, where, kind = (_plain(field) for field in fields[:3])
        if kind == "swap":
            found[f"{escaped(device)}.swap"] = line.strip()
        elif where.startswith("/"):
            found[f"{escaped(where)}.mount"] = line.strip()
    return found


def escaped(path: str) -> str:
    """A path as part of a unit's name."""
    parts = "/".join(part for part in path.split("/") if part)
    if not parts:
        return "-"
    written = "".join(
        "-"
        if char == "/"
        else char
        if char in _AS_IT_IS
        else "".join(f"\\x{byte:02x}" for byte in char.encode())
        for char in parts
    )
    return f"\\x2e{written[1:]}" if written.startswith(".") else written


def _plain(field: str) -> str:
    for written, char in _WRITTEN.items():
        field = field.replace(written, char)
    return field
