"""Which init system runs this PC, and what it starts."""

import os
from enum import StrEnum
from pathlib import Path

from plucky_ledger.linux.init_systems import dependency_based, run_levels, supervised
from plucky_ledger.linux.init_systems.script import InitScript
from plucky_ledger.linux.start_files.found import Reading

ROOT = Path("/")
FIRST_PROCESS = "proc/1/comm"
STARTERS = frozenset({"rc", "rcS", "startpar", "openrc", "rc-sysinit", "1", "2"})
"""Programs of the first process that start scripts one after the other, and end when all is up."""


class InitSystem(StrEnum):
    """What starts services in place of a service manager."""

    SYSVINIT = "sysvinit"
    OPENRC = "openrc"
    RUNIT = "runit"


SCRIPTS_OF = {
    InitSystem.SYSVINIT: run_levels.scripts,
    InitSystem.OPENRC: dependency_based.scripts,
    InitSystem.RUNIT: supervised.scripts,
}


def init_system(root: Path = ROOT) -> InitSystem | None:
    """The one that runs; None where a service manager does, or nothing that is known here."""
    if (root / "run/systemd/system").is_dir():
        return None
    first = _first_process(root)
    if first == "runit":
        return InitSystem.RUNIT
    if any((root / place).is_dir() for place in ("run/openrc", "etc/runlevels/default")):
        return InitSystem.OPENRC if first in {"init", "openrc-init"} else None
    if first == "init" and (root / "etc/inittab").is_file() and (root / "etc/init.d").is_dir():
        return InitSystem.SYSVINIT
    return None


def init_scripts(system: InitSystem, root: Path = ROOT) -> list[InitScript]:
    """What it starts, or could."""
    return SCRIPTS_OF[system](Reading(), root)


def still_starting(proc: Path = Path("/proc")) -> bool:
    """Whether the first process still waits for scripts to be run."""
    try:
        processes = os.listdir(proc)
    except OSError:
        return False
    return any(_is_starter(proc / process) for process in processes if process.isdecimal())


def _is_starter(process: Path) -> bool:
    try:
        stat = (process / "stat").read_bytes()
    except OSError:
        return False
    name, _, rest = stat.partition(b"(")[2].rpartition(b")")
    return name.decode("utf-8", "replace") in STARTERS and rest.split()[1] == b"1"


def _first_process(root: Path) -> str:
    try:
        return (root / FIRST_PROCESS).read_text().strip()
    except (OSError, UnicodeDecodeError):
        return ""
