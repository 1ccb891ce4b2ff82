"""Scripts of an init system, switched by its links, as its own tools set them: update-rc.d(8),
rc-update(8); services of runit by a file that holds them back, which ends nothing now. runsv(8).

Written by us and not by those tools, so that every path is in the journal before it changes: they
would number other scripts' links anew as well.
"""

import os
import re
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from plucky_ledger.control.writes import NOTHING, Content, File, FileWrite, Link, Nothing, write_of
from plucky_ledger.core.entries.kinds import bare_name
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.entries.switching import Switchable
from plucky_ledger.core.values.reasons import Reason, ReasonCode
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.linux.init_systems import dependency_based, run_levels, supervised
from plucky_ledger.linux.init_systems.running import (
    ROOT,
    InitSystem,
    init_scripts,
    init_system,
)
from plucky_ledger.linux.init_systems.script import DOWN, NAME, InitScript

POSSIBLE = (EntryState.ON, EntryState.OFF)
_NAME = re.compile(NAME, re.ASCII)
_PULLING = frozenset({InitSystem.OPENRC, InitSystem.RUNIT})
"""Those whose scripts have others started that are not set to start."""


@dataclass(frozen=True)
class InitScripts:
    """What the init system of a PC starts."""

    root: Path = ROOT

    def look(self, entry_id: str) -> Switchable:
        """How a script is set. Raises OSError."""
        system, scripts = self._scripts()
        script = scripts.get(bare_name(entry_id))
        if system is None or script is None:
            not_there = Reason(ReasonCode.SCRIPT_NOT_THERE)
            return Switchable(entry_id=entry_id, state=None, possible=(), cannot=not_there)
        cannot = self._cannot(system, script)
        pulling = system in _PULLING
        names = {script.name, *script.provides}
        by = [one.name for one in scripts.values() if one.on and names & set(one.pulls)]
        started_by = Reason.of(ReasonCode.WANTED_BY, names=", ".join(by))
        return Switchable(
            entry_id=entry_id,
            state=EntryState.ON if script.on else EntryState.OFF,
            possible=POSSIBLE if cannot is None else (),
            started_by=(started_by,) if pulling and by else (),
            administrators=True,
            cannot=cannot,
        )

    def writes(self, entry_id: str, state: EntryState) -> list[FileWrite]:
        """The writes that set a script to a state.

        Raises:
            Refused: it cannot be set so, or is not there.
            OSError: what is there cannot be read.
        """
        system, scripts = self._scripts()
        script = scripts.get(bare_name(entry_id))
        if system is None or script is None or state not in self.look(entry_id).possible:
            raise Refused(TroubleCode.CANNOT_BE_SET, name=entry_id, state=state.value)
        if script.on is (state is EntryState.ON):
            return []
        contents = dict(_contents(system, script, self.root, state is EntryState.ON))
        return [write for path, content in contents.items() for write in write_of(path, content)]

    def _scripts(self) -> tuple[InitSystem | None, dict[str, InitScript]]:
        system = init_system(self.root)
        found = [] if system is None else init_scripts(system, self.root)
        return system, {script.name: script for script in found}

    def _cannot(self, system: InitSystem, script: InitScript) -> Reason | None:
        """Why it cannot be set here; None where it can."""
        if not _of_run_levels(system, script):
            return None
        never_linked = not script.starts and not script.held
        if script.on or (not never_linked and run_levels.is_ordered(self.root, script.name)):
            return None
        return Reason.of(ReasonCode.SCRIPT_NOT_ORDERED, name=script.name)


def _of_run_levels(system: InitSystem, script: InitScript) -> bool:
    """Whether it is started by numbered links; runit starts such scripts, too."""
    supervised_one = Path(script.file).name == supervised.RUN
    return system is InitSystem.SYSVINIT or (system is InitSystem.RUNIT and not supervised_one)


def _contents(
    system: InitSystem, script: InitScript, root: Path, on: bool
) -> Iterator[tuple[Path, Content]]:
    """What has to be at which path for it to be on, or off."""
    if _of_run_levels(system, script):
        for link in script.held if on else script.starts:
            yield link, NOTHING
            toggled = f"{'S' if on else 'K'}{link.name[1:]}"
            yield link.with_name(toggled), Link(os.readlink(link))
    elif system is InitSystem.OPENRC:
        for link in script.starts:
            yield link, NOTHING
        if on:
            level = root / dependency_based.LEVELS / dependency_based.ENTERED
            yield level / script.name, Link(f"/{run_levels.SCRIPTS}/{script.name}")
    else:
        folder = Path(script.file).parent
        yield folder / DOWN, NOTHING if on else File("")
        if on and not script.starts:
            link = supervised.supervised(root) / script.name
            yield link, Link(f"/{supervised.SERVICES}/{script.name}")


def is_a_setting(path: Path, content: Content, etc: Path) -> bool:
    """Whether this is how an init system is told to start one of its scripts, or not to."""
    below = path.relative_to(etc).parts if path.is_relative_to(etc) else ()
    match below:
        case (level, link) if (told := run_levels.LINK.fullmatch(link)) is not None:
            levels = {f"rc{one}.d" for one in run_levels.LEVELS}
            return level in levels and _leads(content, "../init.d", "/etc/init.d", name=told[3])
        case ("runlevels", level, name) if level in dependency_based.STARTED_IN:
            return _is_name(name) and _leads(content, "/etc/init.d", name=name)
        case ("sv", name, "down"):
            return _is_name(name) and content in (NOTHING, File(""))
        case ("runit", "runsvdir", "default", name) | ("service", name):
            return _is_name(name) and _leads(content, "/etc/sv", name=name)
    return False


def _is_name(name: str) -> bool:
    return _NAME.fullmatch(name) is not None


def _leads(content: Content, *folders: str, name: str) -> bool:
    """Whether there is nothing, or a link to this name in one of these folders."""
    match content:
        case Nothing():
            return True
        case Link(target):
            return target in {f"{folder}/{name}" for folder in folders}
    return False
