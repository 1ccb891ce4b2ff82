"""Where was looked for what starts by itself, besides the service managers."""

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum


class StartSource(StrEnum):
    """One kind of file that starts programs."""

    TABLES = "tables"
    """Tables of timed jobs."""
    HOOKS = "hooks"
    INIT_SCRIPTS = "init_scripts"
    """Looked at only where no service manager runs the PC."""
    SYSTEMS_SHELL_FILES = "systems_shell_files"
    SYSTEMS_DESKTOP_FILES = "systems_desktop_files"
    SYSTEM_BUS = "system_bus"
    OWN_SHELL_FILES = "own_shell_files"
    """Of the person who signed in, as all that follow."""
    OWN_DESKTOP_FILES = "own_desktop_files"
    SESSION_BUS = "session_bus"
    UNKNOWN = "unknown"


@dataclass(frozen=True, kw_only=True)
class SourceLooked:
    """What came of looking at one of them."""

    source: StartSource
    files: int
    """Files there that were read."""
    entries: int
    refused: tuple[str, ...] = ()
    """Files and folders that are there and that the recorder may not read."""


def of_an_init_system(looked: Iterable[SourceLooked]) -> bool:
    """Whether an init system starts the services of the PC that was looked at."""
    return any(one.source is StartSource.INIT_SCRIPTS for one in looked)
