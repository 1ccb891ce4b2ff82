"""What starts the night shift at each boot: a unit, its link, and the administrator's own copy."""

from pathlib import Path

from plucky_ledger.capture.arming import own_copy
from plucky_ledger.capture.arming.starters import own_interpreter, started_while_there
from plucky_ledger.core.pc.arming import NIGHT_SHIFT
from plucky_ledger.linux.files import (
    make_folder,
    put_link,
    remove,
    remove_folder,
    write_whole,
)
from plucky_ledger.linux.folders import Folders
from plucky_ledger.linux.quoting import unit_words

TARGET = "multi-user.target"
OWN_COPY = "night-shift"
PARTS = ("core", "linux", "recording", "capture", "control", "night")
_MAIN = b"""\
import sys

from plucky_ledger.linux.folders import Folders
from plucky_ledger.night.agent import run

sys.exit(run(Folders.of_this_user()))
"""
_UNIT = """\
# Written by Plucky Ledger, which removes it again when the night shift is over.
[Unit]
Description=Plucky Ledger's night shift
[Service]
Type=simple
ExecStart={command}
Nice=19
"""


def install(folders: Folders) -> None:
    """Install it; the link that starts it comes last. Raises OSError and NotCopied."""
    copy = folders.administrators / OWN_COPY
    own_copy.install(copy, PARTS, _MAIN)
    unit, link = _unit(folders), _link(folders)
    make_folder(link.parent, 0o755)
    program = [own_interpreter(), "-I", "-S", str(copy)]
    needed = [program[0], str(copy / "__main__.py")]
    command = unit_words(*started_while_there(program, needed, [link, unit]))
    write_whole(unit, _UNIT.format(command=command).encode(), mode=0o644)
    put_link(link, unit)


def take_away(folders: Folders) -> None:
    """Remove what starts it. Its own copy stays: it may be running. Raises OSError."""
    remove(_link(folders))
    remove(_unit(folders))
    remove_folder(_link(folders).parent)  # where nothing else lies in it


def remove_copy(folders: Folders) -> None:
    """Remove its own copy, as the last of all. Raises OSError."""
    own_copy.remove(folders.administrators / OWN_COPY)
    remove_folder(folders.administrators)


def _unit(folders: Folders) -> Path:
    return folders.system_units / NIGHT_SHIFT


def _link(folders: Folders) -> Path:
    return folders.system_units / f"{TARGET}.wants" / NIGHT_SHIFT
