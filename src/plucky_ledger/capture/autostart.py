"""Desktop entries that start at sign-in, with the override rules of the freedesktop specification.

Of entries with the same file name the one in the more important folder wins, the user's before the
system's. Autostart Specification 0.5 and Desktop Entry Specification 1.5.
"""

import configparser
import os
import shlex
import shutil
import stat
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

from plucky_ledger.recording.lines import OWN_STARTER, EntryLine, bounded

LARGEST_ENTRY = 65_536
"""Bytes; a larger file is no desktop entry."""
MOST_ENTRIES = 2_000


@dataclass(frozen=True)
class AutostartFile:
    """One desktop entry file as found; ``fault`` says why it cannot be one."""

    path: Path
    values: Mapping[str, str]
    fault: str = ""


def autostart_folders(environment: Mapping[str, str], home: Path) -> tuple[Path, ...]:
    """Folders to look in, the most important first."""
    own = environment.get("XDG_CONFIG_HOME") or f"{home}/.config"
    shared = environment.get("XDG_CONFIG_DIRS") or "/etc/xdg"
    return tuple(Path(folder) / "autostart" for folder in (own, *shared.split(":")) if folder)


def autostart_entries(folders: Sequence[Path], desktops: Sequence[str]) -> list[EntryLine]:
    """Every sign-in program, those that do not start among them with the reason."""
    winners: dict[str, Path] = {}
    for folder in folders:
        try:
            names = sorted(
                name
                for name in os.listdir(folder)
                if name.endswith(".desktop") and name != f"{OWN_STARTER}.desktop"
            )
        except OSError:
            continue
        for name in names[:MOST_ENTRIES]:
            winners.setdefault(name, folder / name)
    return [_entry(read_entry(path), folders[0], desktops) for path in winners.values()]


def read_entry(path: Path) -> AutostartFile:
    """The values of a desktop entry's main group; never raises for what is in the file."""
    try:
        # Only a plain file is read: a pipe would hang, a link may point in a circle.
        if not stat.S_ISREG(path.stat().st_mode):
            return AutostartFile(path, {}, "not a plain file")
        with path.open("rb") as file:
            data = file.read(LARGEST_ENTRY + 1)
    except OSError as error:
        return AutostartFile(path, {}, f"cannot be read: {error.strerror}")
    if len(data) > LARGEST_ENTRY:
        return AutostartFile(path, {}, "too large to be a desktop entry")
    if b"\0" in data:
        return AutostartFile(path, {}, "not a text file")
    return _parsed(path, data.decode("utf-8", "replace"))


def _parsed(path: Path, text: str) -> AutostartFile:
    reader = configparser.RawConfigParser(
        strict=False, delimiters=("=",), comment_prefixes=("#",), allow_no_value=True
    )
    reader.optionxform = str  # type: ignore[assignment, method-assign]
    try:
        # Leading blanks would make a line the continuation of the one before.
        reader.read_string("\n".join(line.strip() for line in text.splitlines()))
        values = {key: value or "" for key, value in reader.items("Desktop Entry")}
    except configparser.Error:
        return AutostartFile(path, {}, "has no readable desktop entry in it")
    return AutostartFile(path, values)


def _entry(file: AutostartFile, own_folder: Path, desktops: Sequence[str]) -> EntryLine:
    command = file.values.get("Exec", "")
    program = executable_of(command)
    missing = bool(program) and shutil.which(program) is None
    return EntryLine(
        entry=bounded(file.path.name),
        name=bounded(file.values.get("Name") or file.path.stem),
        owner="user" if file.path.parent == own_folder else "system",
        starts="sign-in program",
        origin=bounded(str(file.path)),
        command=bounded(command),
        part_of_system=file.values.get("NoDisplay") == "true" and not missing,
        left_behind=missing,
        off_because=bounded(file.fault or _off_because(file.values, desktops)),
        description=bounded(file.values.get("Comment", "")),
    )


def executable_of(command: str) -> str:
    """The program an Exec line starts: its first word, quotes and escapes taken off."""
    try:
        words = shlex.split(command.replace("\\\\", "\\"))
    except ValueError:
        return command.split(" ", maxsplit=1)[0]
    return words[0] if words else ""


def _off_because(values: Mapping[str, str], desktops: Sequence[str]) -> str:
    """Why an entry does not start; empty when it does."""
    if values.get("Hidden", "false") == "true":
        return "hidden"
    if values.get("X-GNOME-Autostart-enabled") == "false":
        return "switched off"
    shown = set(_listed(values.get("OnlyShowIn", "")))
    if shown and not shown & set(desktops):
        return f"only for {', '.join(sorted(shown))}"
    if set(_listed(values.get("NotShowIn", ""))) & set(desktops):
        return f"not for {', '.join(desktops)}"
    wanted = values.get("TryExec", "")
    if wanted and shutil.which(wanted) is None:
        return f"{wanted} is not there"
    if not values.get("Exec") and values.get("DBusActivatable") != "true":
        return "says nothing to start"
    return ""


def _listed(text: str) -> list[str]:
    return [part for part in text.split(";") if part]
