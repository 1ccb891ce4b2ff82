"""What starts the armed recorder: one known file a level, which also keeps how the arming stands.

There is no list of what was written anywhere: where a starter lies is known, so that a damaged one
is found and removed as well, and nothing else ever is.
"""

import os
import shlex
import sys
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Annotated

import msgspec

import plucky_ledger
from plucky_ledger.capture.arming import init_starters
from plucky_ledger.core.pc.arming import (
    LONGEST_LOOK_SECONDS,
    MOST_EVERY,
    MOST_KEPT,
    NO_NOTICES,
    OWN_STARTER,
    Level,
)
from plucky_ledger.linux.files import half_written_in
from plucky_ledger.linux.folders import Folders
from plucky_ledger.linux.init_systems.running import InitSystem, init_system
from plucky_ledger.linux.quoting import exec_words, unit_words
from plucky_ledger.linux.trusted_files import read_trusted
from plucky_ledger.linux.users import ADMINISTRATOR

LARGEST_BYTES = 65_536
SHELL = "/bin/sh"
OWN_COPY = "recorder"
_STATE = b"# State: "


class Arming(msgspec.Struct, frozen=True):
    """What was armed, and how it stands."""

    boots_left: int
    folder: str
    """Where the recordings go."""
    user: int
    """Whose folder that is: the recorder becomes this user to write there."""
    label: str = ""
    """Of the job, so that it can be disarmed by that alone."""
    trouble: str = ""
    """Code of what kept the last boot from being recorded; empty where it was."""
    facts: dict[str, str | int | float] = {}
    """What goes with the code."""
    id: str = ""
    """Tells this arming from any other: a recorder counts down the one that started it."""
    seen_boot: str = ""
    """The boot in which it was armed, or the last that was recorded or could not be."""
    made: tuple[str, ...] = ()
    """Folders that were made for it, the outermost first."""
    look_seconds: Annotated[float, msgspec.Meta(ge=0.0, le=LONGEST_LOOK_SECONDS)] = 0.0
    """How long what comes after settled is looked at; 0 for not at all."""
    boots: int = 0
    """For how many it was armed in all."""
    notices: tuple[str, ...] = NO_NOTICES
    """What the user is told after a boot, after the last, and of when a boot was calm, in their
    language: "{n}" stands for its number, "{boots}" for all, "{seconds}" for the last. Empty for
    nothing."""

    every: Annotated[int, msgspec.Meta(ge=0, le=MOST_EVERY)] = 0
    """In care: one boot in so many is recorded, for good; 0 where it ends after the last boot."""
    skipped: Annotated[int, msgspec.Meta(ge=0)] = 0
    """Boots since the last one that was recorded."""
    keep: Annotated[int, msgspec.Meta(ge=1, le=MOST_KEPT)] = 30
    hand_to: str = ""
    hand_by: tuple[str, ...] = ()
    """See core.pc.arming.Care."""

    def notice(self, left: int, calm_since: float | None) -> str:
        """What is told of a boot after which so many are left, calm so many seconds after its
        start.
        """
        after_one, after_last, calm = (*self.notices, *NO_NOTICES)[:3]
        words = after_one if left else after_last
        if words and calm and calm_since is not None:
            words = f"{words} {calm}"
        figures = {"n": self.boots - left, "boots": self.boots, "seconds": round(calm_since or 0)}
        for name, figure in figures.items():
            words = words.replace(f"{{{name}}}", str(figure))
        return words


class Starter(msgspec.Struct, frozen=True):
    """Where the starter of one level lies."""

    level: Level
    path: Path
    own_copy: Path | None = None
    """Where an own copy of the recorder lies: the administrator's at the level of the system, or
    a user's, who has one only where the program came on a stick.
    """
    init: InitSystem | None = None
    """The init system that starts it; None where a service manager or a desktop does."""

    @property
    def runs_a_copy(self) -> bool:
        """Whether an own copy is what it starts."""
        return self.level is Level.SYSTEM or plucky_ledger.CARRIED

    @property
    def links(self) -> Mapping[Path, Path]:
        """Links that make the service manager, or the init system, start it, and where each leads,
        in the order in which they are made.
        """
        if self.init is not None:
            return init_starters.links(self.init, self.path)
        if self.level is Level.AUTOSTART:
            return {}
        target = "sysinit.target" if self.level is Level.SYSTEM else "default.target"
        return {self.path.parent / f"{target}.wants" / self.path.name: self.path}

    @property
    def _newest_links(self) -> list[Path]:
        """The links in the order in which they are removed."""
        return list(self.links)[::-1]

    @property
    def line(self) -> init_starters.TableLine | None:
        """The line in a table that makes the init system start it, where no link does."""
        return init_starters.table_line(self.init, self.path)

    @property
    def folders(self) -> tuple[Path, ...]:
        """The folders that something of it lies in."""
        return tuple(dict.fromkeys((self.path.parent, *(link.parent for link in self.links))))

    @property
    def mode(self) -> int:
        """The user reads how an arming of the system's level stands."""
        if self.init is not None:
            return init_starters.MODE
        return 0o644 if self.level is Level.SYSTEM else 0o600

    @property
    def folder_mode(self) -> int:
        """Of folders that are made for it."""
        return 0o755 if self.level is Level.SYSTEM else 0o700

    def text(self, arming: Arming) -> bytes:
        """The file. Raises CannotBeQuoted."""
        state = _STATE + msgspec.json.encode(arming) + b"\n"
        if self.own_copy is not None and self.runs_a_copy:
            program = [own_interpreter(), "-I", "-S", str(self.own_copy), str(self.path)]
            needed = [program[0], str(self.own_copy / "__main__.py")]
        else:
            program = [sys.executable, "-m", "plucky_ledger", "record", "--armed", str(self.path)]
            needed = [program[0], str(Path(plucky_ledger.__file__))]
        early = rank = ""
        if self.own_copy is not None and self.level is Level.SYSTEM:
            early, rank = _EARLY.format(mount=unit_words(str(self.own_copy.parent))), _RANK
        # The links that start it go first, the newest before the others.
        more = "" if self.line is None else self.line.in_shell
        command = started_while_there(program, needed, [*self._newest_links, self.path], more)
        if self.init is not None:
            return init_starters.script(self.path, state, needed, command)
        if self.level is Level.AUTOSTART:
            return state + _DESKTOP_ENTRY.format(command=exec_words(*command)).encode()
        return state + _UNIT.format(command=unit_words(*command), early=early, rank=rank).encode()

    def read(self) -> Arming | None:
        """How the arming stands; None where there is none, or none that can be believed: the
        system's is the administrator's alone, a user's own the user's.
        """
        owner = ADMINISTRATOR if self.level is Level.SYSTEM else os.geteuid()
        try:
            lines = read_trusted(self.path, LARGEST_BYTES, owner).split(b"\n")
        except OSError:
            return None
        states = [line.removeprefix(_STATE) for line in lines if line.startswith(_STATE)]
        try:
            arming = msgspec.json.decode(states[0], type=Arming) if states else None
        except (msgspec.DecodeError, UnicodeDecodeError, RecursionError):
            return None
        return arming if arming is None or self._may_have_made(arming.made) else None

    def _may_have_made(self, made: Sequence[str]) -> bool:
        """Whether these are folders on the way to it, and no others."""
        ways = {str(folder) for leaf in self.folders for folder in (leaf, *leaf.parents)}
        return set(made) <= ways

    @property
    def traces(self) -> tuple[Path, ...]:
        """Everything that is there of it, damaged or not, in the order in which it is removed."""
        copy = (self.own_copy,) if self.own_copy is not None else ()
        traces = (self.path, *self._newest_links, *copy)
        return (
            *(trace for trace in traces if os.path.lexists(trace)),
            *(left for folder in self.folders for left in half_written_in(folder)),
        )


def starters(folders: Folders) -> tuple[Starter, ...]:
    """Where starters can lie, for one user."""
    unit, init = f"{OWN_STARTER}.service", init_system()
    systems = (
        folders.system_units / unit if init is None else init_starters.starter_file(init, folders)
    )
    users_copy = folders.state / OWN_COPY
    return (
        Starter(Level.SYSTEM, systems, folders.administrators / OWN_COPY, init),
        Starter(Level.USER, folders.user_units / unit, users_copy),
        Starter(Level.AUTOSTART, folders.autostart / f"{OWN_STARTER}.desktop", users_copy),
    )


def starter_of(level: Level, folders: Folders) -> Starter:
    """Where the starter of a level lies."""
    return next(starter for starter in starters(folders) if starter.level is level)


def users_starter(path: Path, own_copy: Path | None = None) -> Starter:
    """The starter of a user that is this file."""
    return Starter(Level.AUTOSTART if path.suffix == ".desktop" else Level.USER, path, own_copy)


def started_while_there(
    program: Sequence[str], needed: Sequence[str], own: Sequence[Path], more: str = ""
) -> list[str]:
    """The command that starts a program, and where the program has been removed from the PC removes
    what starts it instead: nobody else would.

    ``needed`` are files that the program cannot do without, ``own`` those that start it; ``more``
    is what else takes it away, in the shell's words.
    """
    is_there = " && ".join(f"[ -e {shlex.quote(path)} ]" for path in needed)
    traces = shlex.join(str(path) for path in own)
    return [
        SHELL,
        "-c",
        f"{is_there} && exec {shlex.join(program)}; "
        f"echo 'Plucky Ledger is gone from this PC: what starts it is removed.' >&2; "
        f"rm -f {traces}{f'; {more}' if more else ''}",
    ]


def own_interpreter() -> str:
    """The interpreter itself, behind the links of a virtual environment."""
    return os.path.realpath(sys.executable)


_EARLY = """\
DefaultDependencies=no
RequiresMountsFor={mount}
Conflicts=shutdown.target
Before=shutdown.target
"""
"""As soon as its own copy can be read. The folder it writes to may come later. A shutdown ends it
before the folder goes.
"""
_RANK = """\
Nice=-10
IOSchedulingPriority=0
"""
"""Whatever competes while the PC starts is what is to be recorded, not what keeps it waiting. No
weights: a unit that has one makes the manager put every service into a group of its own to be
scheduled, and the PC is no longer the one that was to be recorded.
"""
_UNIT = """\
# Written by Plucky Ledger, which removes it again after the armed boots.
[Unit]
Description=Plucky Ledger records this boot
{early}
[Service]
Type=simple
ExecStart={command}
{rank}"""
_DESKTOP_ENTRY = """\
# Written by Plucky Ledger, which removes it again after the armed boots.
[Desktop Entry]
Type=Application
Name=Plucky Ledger records this boot
Comment=Removed again after the armed boots
Exec={command}
NoDisplay=true
"""
