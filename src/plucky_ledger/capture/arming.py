"""Armed recording: the recorder starts by itself at the next boots, then removes its own traces.

An *arming* is one small file beside the recordings; what starts the recorder is a unit of the
user's or the system's service manager, or an autostart entry where there is no user manager. Every
trace is listed in the arming before it is made, so that disarming finds all of them.
"""

import os
import shlex
import sys
from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from pathlib import Path

import msgspec

from plucky_ledger.linux.users import give_to_owner_of
from plucky_ledger.recording.lines import OWN_STARTER

MOST_BOOTS = 20
LIMIT_SECONDS = 300.0
"""Longest recording of one boot, settled or not."""
STATE_FILE = "armed.json"


class Level(StrEnum):
    """How early the recorder starts."""

    SYSTEM = "system"
    """With the system's own services; needs the administrator."""
    USER = "user"
    """With the user's services, at sign-in."""
    AUTOSTART = "autostart"
    """As a sign-in program, where there is no user manager."""


class NotArmed(Exception):
    """It could not be armed or disarmed; the text says what was kept and what to try."""


class Arming(msgspec.Struct, frozen=True):
    """What was armed."""

    boots_left: int
    level: str
    folder: str
    """Where the recordings go."""
    traces: tuple[str, ...]
    """Files that were made to start the recorder; removed again in this order."""


@dataclass(frozen=True)
class Places:
    """Where a PC keeps what starts by itself."""

    system_units: Path
    user_units: Path
    autostart: Path

    @classmethod
    def of(cls, environment: Mapping[str, str], home: Path) -> "Places":
        """The folders on this PC."""
        config = Path(environment.get("XDG_CONFIG_HOME") or f"{home}/.config")
        return cls(Path("/etc/systemd/system"), config / "systemd/user", config / "autostart")


def arm(folder: Path, boots: int, level: Level, places: Places) -> Arming:
    """Install what starts the recorder at the next ``boots`` boots.

    Raises:
        NotArmed: it is armed already, or a file cannot be written; then nothing is left behind.
    """
    if not 1 <= boots <= MOST_BOOTS:
        raise NotArmed(f"Arm it for 1 to {MOST_BOOTS} boots.")
    if read_arming(folder) is not None:
        raise NotArmed("It is armed already. Disarm it first.")
    files = _files(folder, level, places)
    arming = Arming(boots, str(level), str(folder), tuple(str(path) for path in reversed(files)))
    try:
        _make_folder(folder)
        _write(folder / STATE_FILE, msgspec.json.encode(arming))
        for path, content in files.items():
            path.parent.mkdir(parents=True, exist_ok=True)
            if isinstance(content, Path):
                path.symlink_to(content)
            else:
                _write(path, content.encode())
    except OSError as error:
        disarm(folder)
        raise NotArmed(
            f"{error.filename or folder} cannot be written: {error.strerror}. Nothing was armed. "
            "Choose another level, or ask the administrator."
        ) from error
    return arming


def disarm(folder: Path) -> bool:
    """Remove every trace; False when it was not armed.

    Raises:
        NotArmed: a trace cannot be removed; the arming is kept, so that it can be tried again.
    """
    arming = read_arming(folder)
    if arming is None:
        return False
    for trace in (*arming.traces, str(folder / STATE_FILE)):
        try:
            os.unlink(trace)
        except (FileNotFoundError, NotADirectoryError):
            continue
        except OSError as error:
            raise NotArmed(
                f"{trace} cannot be removed: {error.strerror}. Remove it as administrator."
            ) from error
    return True


def read_arming(folder: Path) -> Arming | None:
    """The arming kept in a folder; None when there is none that can be read."""
    try:
        return msgspec.json.decode((folder / STATE_FILE).read_bytes(), type=Arming)
    except (OSError, msgspec.DecodeError, UnicodeDecodeError):
        return None


def count_down(folder: Path) -> int:
    """One boot has been recorded; at the last one it disarms itself. Returns what is left."""
    arming = read_arming(folder)
    if arming is None:
        return 0
    left = arming.boots_left - 1
    if left <= 0:
        disarm(folder)
        return 0
    changed = msgspec.structs.replace(arming, boots_left=left)
    beside = folder / f".{STATE_FILE}.new"
    beside.unlink(missing_ok=True)
    _write(beside, msgspec.json.encode(changed))
    beside.replace(folder / STATE_FILE)
    return left


def _files(folder: Path, level: Level, places: Places) -> dict[Path, str | Path]:
    """What to write where; a path as content means a link to it."""
    command = f"{sys.executable} -m plucky_ledger record --armed {shlex.quote(str(folder))}"
    if level is Level.AUTOSTART:
        return {places.autostart / f"{OWN_STARTER}.desktop": _DESKTOP_ENTRY.format(command=command)}
    units = places.system_units if level is Level.SYSTEM else places.user_units
    wanted_by = "sysinit.target" if level is Level.SYSTEM else "default.target"
    unit = units / f"{OWN_STARTER}.service"
    text = _UNIT.format(command=command, early=_EARLY if level is Level.SYSTEM else "")
    return {unit: text, units / f"{wanted_by}.wants" / unit.name: unit}


def _make_folder(folder: Path) -> None:
    """The folder and those above it, private, and the user's own even if the administrator arms."""
    missing = [place for place in (folder, *folder.parents) if not place.exists()]
    for place in reversed(missing):
        place.mkdir(mode=0o700)
        give_to_owner_of(place.parent, place)


def _write(path: Path, data: bytes) -> None:
    descriptor = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
    try:
        os.write(descriptor, data)
    finally:
        os.close(descriptor)
    give_to_owner_of(path.parent, path)


_EARLY = "DefaultDependencies=no\nAfter=local-fs.target\n"
_UNIT = """\
# Written by Plucky Ledger, which removes it again after the armed boots.
[Unit]
Description=Plucky Ledger records this boot
{early}
[Service]
Type=simple
ExecStart={command}
"""
_DESKTOP_ENTRY = """\
[Desktop Entry]
Type=Application
Name=Plucky Ledger records this boot
Comment=Removed again after the armed boots
Exec={command}
NoDisplay=true
"""
