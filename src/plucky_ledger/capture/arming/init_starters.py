"""What starts the armed recorder where an init system does: its files, and what is in them.

init(8), openrc-run(8), runsv(8). Linux Standard Base 3.1, "Comment Conventions for Init Scripts".
"""

import errno
import os
import shlex
import stat
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from plucky_ledger.core.pc.arming import OWN_STARTER
from plucky_ledger.linux.files import only_changed_by, read_bounded, refuse_unless, write_whole
from plucky_ledger.linux.folders import Folders
from plucky_ledger.linux.init_systems.run_levels import EARLY
from plucky_ledger.linux.init_systems.running import InitSystem
from plucky_ledger.linux.init_systems.supervised import RUN, supervised

MODE = 0o755
LARGEST_BYTES = 200_000
_LINE_ID = "plr"
THERE_WITHIN_SECONDS = 60
"""How long what it needs may take to be mounted."""
SUPERVISED_AT = Path("/run") / OWN_STARTER
"""Where its supervisor keeps how it is: gone with the boot."""


def starter_file(system: InitSystem, folders: Folders) -> Path:
    """The script."""
    if _is_supervised(system, folders.etc):
        return folders.etc / "sv" / OWN_STARTER / RUN
    return folders.etc / "init.d" / OWN_STARTER


def links(system: InitSystem, path: Path) -> dict[Path, Path]:
    """The links that go with a script, and where each leads, in the order in which they are made:
    the last has it started.
    """
    etc = _etc(path)
    if system is InitSystem.SYSVINIT:
        return {}
    if system is InitSystem.OPENRC:
        return {etc / "runlevels/sysinit" / OWN_STARTER: path}
    if path.name != RUN:
        return {etc / f"rc{EARLY}.d" / f"S00{OWN_STARTER}": path}
    place = supervised(etc.parent)
    return {path.parent / "supervise": SUPERVISED_AT, place / OWN_STARTER: path.parent}


def _is_supervised(system: InitSystem, etc: Path) -> bool:
    """Whether runit can only start it with the services: some have its first stage run scripts."""
    if system is not InitSystem.RUNIT:
        return False
    try:
        return f"rc{EARLY}.d" not in (etc / "runit/1").read_text("utf-8", "replace")
    except OSError:
        return True


def _etc(path: Path) -> Path:
    """The folder of settings that a script lies below."""
    return path.parents[2] if path.name == RUN else path.parents[1]


def table_line(system: InitSystem | None, path: Path) -> "TableLine | None":
    """The line of the init system's table that has a script started; None where links do.

    A link would not: what orders the scripts of a run level starts only those that it was told of.
    """
    if system is not InitSystem.SYSVINIT:
        return None
    return TableLine(_etc(path) / "inittab", f"{_LINE_ID}::sysinit:{path} start\n")


@dataclass(frozen=True)
class TableLine:
    """A line of ours in a table of the administrator's. inittab(5)."""

    table: Path
    line: str

    @property
    def is_there(self) -> bool:
        """Whether the table has it."""
        try:
            return self.line in self._lines()
        except OSError:
            return False

    def put(self) -> None:
        """Make it the first line. Raises OSError."""
        lines = self._lines()
        if self.line not in lines:
            self._write([self.line, *lines])

    def take_out(self) -> None:
        """Leave the table as it is without it. Raises OSError."""
        self._write([line for line in self._lines() if line != self.line])

    @property
    def in_shell(self) -> str:
        """The command that takes it out."""
        return f"sed -i '/^{_LINE_ID}:/d' {shlex.quote(str(self.table))}"

    def _lines(self) -> list[str]:
        data = read_bounded(self.table, LARGEST_BYTES + 1)
        refuse_unless(len(data) <= LARGEST_BYTES, self.table, errno.EFBIG)
        return data.decode("utf-8", "surrogateescape").splitlines(keepends=True)

    def _write(self, lines: Sequence[str]) -> None:
        status = os.lstat(self.table)
        refuse_unless(only_changed_by(os.geteuid())(status), self.table)
        text = "".join(lines).encode("utf-8", "surrogateescape")
        write_whole(self.table, text, mode=stat.S_IMODE(status.st_mode))


def script(path: Path, state: bytes, needed: Sequence[str], command: Sequence[str]) -> bytes:
    """The text of the script at a path; ``state`` is a remark that it carries, with its line's end.

    What it starts goes on by itself: nothing waits for it, and it looks on when the script is gone.
    """
    there = " && ".join(f"[ -e {shlex.quote(path)} ]" for path in needed)
    waits = (
        f"n=0; until {there} || [ $n -ge {THERE_WITHIN_SECONDS * 10} ]; "
        "do sleep 0.1; n=$((n+1)); done"
    )
    started = f"( {waits}\nexec {shlex.join(command)} ) </dev/null >/dev/null 2>&1 &\n"
    if path.name == RUN:
        return b"#!/bin/sh\n" + state + f"{_WRITTEN}sv once .\n{started}".encode()
    return b"#!/bin/sh\n" + _HEADER.encode() + state + f"{_WRITTEN}{_ONLY_START}{started}".encode()


_WRITTEN = "# Written by Plucky Ledger, which removes it again after the armed boots.\n"
_HEADER = f"""\
### BEGIN INIT INFO
# Provides:          {OWN_STARTER}
# Required-Start:
# Required-Stop:
# Default-Start:     S
# Default-Stop:
# Short-Description: Plucky Ledger records this boot
### END INIT INFO
"""
_ONLY_START = '[ "$1" = start ] || exit 0\n'
