"""Which program an entry really runs, whether it is still there, and which package owns it."""

import os
import shutil
from collections.abc import Callable, Iterable

import msgspec

from plucky_ledger.capture.packages.packages import Package, PackageManager
from plucky_ledger.capture.services.units import OWN_SCRIPTS
from plucky_ledger.core.entries.commands import unwrapped
from plucky_ledger.core.entries.entry import EntryKind
from plucky_ledger.core.entries.kinds import KINDS
from plucky_ledger.recording.lines import EntryLine, bounded

OF_FILES = frozenset(
    KINDS[kind].recorded_as
    for kind in (EntryKind.HOOK, EntryKind.SHELL_LINE, EntryKind.DESKTOP_LINE)
)
"""Kinds that come with a package whose file they stand in, and are part of the system then."""
SCRIPTS = KINDS[EntryKind.INIT_SCRIPT].recorded_as
"""The kind that is part of the system where a package brings both the script and its program."""


def identified(
    entries: Iterable[EntryLine],
    manager: PackageManager | None,
    find: Callable[[str], str | None] = shutil.which,
) -> list[EntryLine]:
    """The entries with their program, package and description filled in."""
    lines = list(entries)
    origins = {line.origin for line in lines if line.starts in {*OF_FILES, SCRIPTS}}
    programs = {line.entry: unwrapped(line.command).program for line in lines if line.command}
    paths = {entry: find(program) for entry, program in programs.items() if program}
    real = {path: os.path.realpath(path) for path in paths.values() if path}
    asked = {*real, *real.values(), *origins}
    owned = manager.owners(asked) if manager is not None and asked else {}

    def identify(line: EntryLine) -> EntryLine:
        if line.starts in OF_FILES and owned.get(line.origin) is not None:
            line = msgspec.structs.replace(line, part_of_system=True)
        program, path = programs.get(line.entry, ""), paths.get(line.entry)
        if line.starts == SCRIPTS and manager is not None:
            own = program != line.origin and program.startswith(OWN_SCRIPTS)
            packaged = owned.get(line.origin) is not None
            line = msgspec.structs.replace(line, part_of_system=packaged and not own)
        if path is None:
            # Only a full path can be known to be gone; a bare name may be found elsewhere.
            gone = program.startswith("/") and "%" not in program and not os.path.lexists(program)
            return msgspec.structs.replace(line, left_behind=line.left_behind or gone)
        package = owned.get(path) or owned.get(real[path])
        return msgspec.structs.replace(
            line,
            executable=bounded(path),
            package=bounded(_named(package)),
            description=line.description or bounded(package.description if package else ""),
        )

    return [identify(line) for line in lines]


def _named(package: Package | None) -> str:
    return f"{package.name} {package.version}" if package else ""
