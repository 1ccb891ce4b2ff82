"""Armed recording: the recorder starts by itself at the next boots, then removes its own traces.

An *arming* is one small file beside the recordings; what starts the recorder is a unit of the
user's or the system's service manager, or an autostart entry where there is no user manager. Every
trace is listed in the arming before it is made, so that disarming finds all of them.
"""

import logging
import os
import shlex
import sys
from pathlib import Path

import msgspec

from plucky_ledger.core.pc.arming import MOST_BOOTS, Level
from plucky_ledger.core.trouble import Trouble, TroubleCode
from plucky_ledger.linux.files import make_private_folder, write_whole
from plucky_ledger.linux.folders import Folders
from plucky_ledger.recording.lines import OWN_STARTER

LIMIT_SECONDS = 300.0
"""Longest recording of one boot, settled or not."""
STATE_FILE = "armed.json"
log = logging.getLogger(__name__)


class NotArmed(Trouble):
    """It could not be armed or disarmed."""


class Arming(msgspec.Struct, frozen=True):
    """What was armed."""

    boots_left: int
    level: str
    folder: str
    """Where the recordings go."""
    traces: tuple[str, ...]
    """Files that were made to start the recorder; removed again in this order."""
    label: str = ""
    """Of the job, so that it can be disarmed by that alone."""


def arm(folder: Path, boots: int, level: Level, folders: Folders, label: str = "") -> Arming:
    """Install what starts the recorder at the next ``boots`` boots.

    Raises:
        NotArmed: it is armed already, or a file cannot be written; then nothing is left behind.
    """
    if not 1 <= boots <= MOST_BOOTS:
        raise NotArmed(TroubleCode.BOOTS_OUT_OF_RANGE, most=MOST_BOOTS)
    if read_arming(folder) is not None:
        raise NotArmed(TroubleCode.ARMED_ALREADY)
    files = _files(folder, level, folders)
    traces = tuple(str(path) for path in reversed(files))
    arming = Arming(boots, str(level), str(folder), traces, label)
    try:
        make_private_folder(folder)
        write_whole(folder / STATE_FILE, msgspec.json.encode(arming), fresh=True)
        for path, content in files.items():
            path.parent.mkdir(parents=True, exist_ok=True)
            if isinstance(content, Path):
                path.symlink_to(content)
            else:
                write_whole(path, content.encode(), fresh=True)
    except OSError as error:
        disarm(folder)
        at = str(error.filename2 or error.filename or folder)
        raise NotArmed(TroubleCode.NOT_ARMED, path=at, system=error.strerror or "") from error
    log.info("armed for %d boots at level %s: %s", boots, level, ", ".join(arming.traces))
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
                TroubleCode.TRACE_STAYS, path=trace, system=error.strerror or ""
            ) from error
    log.info("disarmed: %s", ", ".join(arming.traces))
    return True


def read_arming(folder: Path) -> Arming | None:
    """The arming kept in a folder; None when there is none that can be read."""
    try:
        return msgspec.json.decode((folder / STATE_FILE).read_bytes(), type=Arming)
    except (OSError, msgspec.DecodeError, UnicodeDecodeError):
        return None


def armed_under(recordings: Path, label: str) -> Path | None:
    """The folder among ``recordings`` that a job was armed in; None where none was."""
    try:
        folders = sorted(recordings.iterdir())
    except OSError:
        return None
    armings = ((folder, read_arming(folder)) for folder in folders)
    return next((folder for folder, arming in armings if arming and arming.label == label), None)


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
    write_whole(folder / STATE_FILE, msgspec.json.encode(changed))
    return left


def _files(folder: Path, level: Level, folders: Folders) -> dict[Path, str | Path]:
    """What to write where; a path as content means a link to it."""
    command = f"{sys.executable} -m plucky_ledger record --armed {shlex.quote(str(folder))}"
    if level is Level.AUTOSTART:
        return {
            folders.autostart / f"{OWN_STARTER}.desktop": _DESKTOP_ENTRY.format(command=command)
        }
    units = folders.system_units if level is Level.SYSTEM else folders.user_units
    wanted_by = "sysinit.target" if level is Level.SYSTEM else "default.target"
    unit = units / f"{OWN_STARTER}.service"
    text = _UNIT.format(command=command, early=_EARLY if level is Level.SYSTEM else "")
    return {unit: text, units / f"{wanted_by}.wants" / unit.name: unit}


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
