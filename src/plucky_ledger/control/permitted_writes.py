"""Which paths each level may write, and what: one closed list for making changes and undoing them.

The journal of changes is a file, and what is read from it is held against this list as what is
planned is: a change that says anything else is not believed.
"""

import os
import re
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from plucky_ledger.control.bus_files import FILE_NAME, is_mask
from plucky_ledger.control.init_scripts import is_a_setting
from plucky_ledger.control.writes import (
    OWN_TABLE,
    Content,
    File,
    FileWrite,
    Folder,
    Link,
    Nothing,
)
from plucky_ledger.linux.folders import Folders
from plucky_ledger.linux.start_files.tables import differ_by_marks, is_system_table

UNIT_KINDS = ("service", "timer", "socket", "path", "target")
LINKS_BELOW = ("wants", "requires", "upholds")
SYSTEM_UNIT_FOLDERS = (
    "/etc/systemd/system",
    "/run/systemd/system",
    "/usr/local/lib/systemd/system",
    "/usr/lib/systemd/system",
    "/lib/systemd/system",
    "/run/systemd/generator",
    "/run/systemd/generator.early",
    "/run/systemd/generator.late",
    "/run/systemd/transient",
)
"""Where the system's manager looks for units; systemd.unit(5)."""
USER_UNIT_FOLDERS = (
    "/etc/xdg/systemd/user",
    "/etc/systemd/user",
    "/run/systemd/user",
    "/usr/local/share/systemd/user",
    "/usr/share/systemd/user",
    "/usr/local/lib/systemd/user",
    "/usr/lib/systemd/user",
    "/lib/systemd/user",
)
"""Where every user's manager looks for units, beside the user's own folders."""
NULL = "/dev/null"
"""What a mask leads to."""
_UNIT = re.compile(rf"[\w:.\\@-]+\.(?:{'|'.join(UNIT_KINDS)})")
_SETTINGS = re.compile(r"[\w.-]+\.conf")
_DESKTOP_ENTRY = re.compile(r"[^/\0]+\.desktop")


@dataclass(frozen=True)
class PermittedWrites:
    """The paths that one level may write."""

    units: Path
    """Its folder of units."""
    autostart: Path | None
    """Its folder of sign-in programs; the system's level has none."""
    links_lead_to: tuple[Path, ...]
    """Folders of units."""
    etc: Path | None = None
    """Where the system's tables of timed jobs lie, in which lines are marked, and the links of an
    init system to its scripts; a user has none."""
    bus_masks: Path | None = None
    """Its folder of files that tell a message bus what it may start, in which only such lie that
    have it start nothing."""
    own_table: bool = False
    """Whether lines of the table of who runs this are marked, by its own program."""

    @classmethod
    def of_the_system(cls, folders: Folders) -> "PermittedWrites":
        """The administrator's."""
        paths = (Path(folder) for folder in SYSTEM_UNIT_FOLDERS)
        return cls(
            folders.system_units,
            None,
            (folders.system_units, *paths),
            folders.etc,
            folders.system_bus_files,
        )

    @classmethod
    def of_a_user(cls, folders: Folders) -> "PermittedWrites":
        """A user's own."""
        data = folders.config.parent / ".local/share/systemd/user"
        paths = (Path(folder) for folder in USER_UNIT_FOLDERS)
        return cls(
            folders.user_units,
            folders.autostart,
            (folders.user_units, data, *paths),
            bus_masks=folders.own_bus_files,
            own_table=True,
        )

    @property
    def folders(self) -> tuple[Path, ...]:
        """The folders that are written to."""
        folders = (self.units, self.autostart, self.bus_masks)
        return tuple(folder for folder in folders if folder is not None)

    def permit(self, writes: Sequence[FileWrite]) -> bool:
        """Whether all of them may be made, and undone."""
        return all(self._permits(write) for write in writes)

    def _permits(self, write: FileWrite) -> bool:
        if write.path == OWN_TABLE:
            return self.own_table and _marks_lines(write, OWN_TABLE)
        path = Path(write.path)
        if os.path.normpath(write.path) != write.path or not path.is_absolute():
            return False
        if self.etc is not None and is_system_table(path, self.etc):
            return _marks_lines(write)
        if write.by_lines:
            return False
        contents = (write.before, write.after)
        if self.etc is not None and all(is_a_setting(path, one, self.etc) for one in contents):
            return True
        return all(self._may_be(path, content) for content in contents)

    def _may_be(self, path: Path, content: Content) -> bool:
        match content:
            case Nothing():
                return self._may_be(path, Folder()) or self._has_a_place(path)
            case Folder():
                is_above = any(path in (folder, *folder.parents) for folder in self.folders)
                return is_above or (path.parent == self.units and self._is_below_a_unit(path))
            case Link(target):
                links = path.parent != self.bus_masks
                return links and self._has_a_place(path) and self._may_lead(path, target)
            case File() if path.parent == self.bus_masks:
                return is_mask(content) and self._has_a_place(path)
            case File():
                return self._has_a_place(path) and _is_sectioned(content)

    def _has_a_place(self, path: Path) -> bool:
        """Whether a file or link with this name is one of a unit or a sign-in program."""
        if path.parent == self.autostart:
            return bool(_DESKTOP_ENTRY.fullmatch(path.name))
        if path.parent == self.bus_masks:
            return bool(FILE_NAME.fullmatch(path.name))
        if path.parent == self.units:
            return bool(_UNIT.fullmatch(path.name))
        if path.parent.parent != self.units or not self._is_below_a_unit(path.parent):
            return False
        expected = _SETTINGS if path.parent.suffix == ".d" else _UNIT
        return bool(expected.fullmatch(path.name))

    def _is_below_a_unit(self, folder: Path) -> bool:
        kinds = {".d", *(f".{kind}" for kind in LINKS_BELOW)}
        return folder.suffix in kinds and bool(_UNIT.fullmatch(folder.stem))

    def _may_lead(self, link: Path, target: str) -> bool:
        """A unit's link leads to a unit, or to nothing; a sign-in program's to a desktop entry."""
        if target == NULL:
            return True
        leads_to = Path(os.path.normpath(link.parent / target))
        if link.parent == self.autostart:
            return bool(_DESKTOP_ENTRY.fullmatch(leads_to.name))
        return leads_to.parent in self.links_lead_to and bool(_UNIT.fullmatch(leads_to.name))


def _marks_lines(write: FileWrite, user: str = "") -> bool:
    """Whether a table keeps every line and its mode, and only lines that say @reboot are marked.
    ``user`` is whose it is; empty for a system's.
    """
    match write.before, write.after:
        case File(before, mode, encoded=False), File(after, after_mode, encoded=False):
            return mode == after_mode and differ_by_marks(before, after, user)
    return False


def _is_sectioned(file: File) -> bool:
    """Whether a file is made as unit files and desktop entries are: text, sections first."""
    if b"\0" in file.data:
        return False
    lines = (line.strip() for line in file.data.split(b"\n"))
    first = next((line for line in lines if line and not line.startswith((b"#", b";"))), b"[")
    return first.startswith(b"[")
