"""Where a user's and the system's files lie: the XDG base directories and the managers' units."""

import os
from collections.abc import Mapping
from pathlib import Path

import msgspec

from plucky_ledger.linux.trusted_files import lies_with_the_administrator
from plucky_ledger.linux.users import is_administrator, own_home

JOURNAL_OF_CHANGES = "changes"
SESSION_BUS, SYSTEM_BUS = "dbus-1/services", "dbus-1/system-services"
"""Where files lie that tell a bus what it may start, below a folder of data."""


class Folders(msgspec.Struct, frozen=True):
    """Folders by the XDG Base Directory Specification 0.8, and where units lie."""

    config: Path
    """The user's own settings."""
    shared_config: tuple[Path, ...]
    """Settings for all users, the most important first."""
    system_units: Path = Path("/etc/systemd/system")
    administrators: Path = Path("/var/lib/plucky-ledger")
    """What only the administrator writes: the own copy of the recorder, the journal of changes."""
    etc: Path = Path("/etc")
    """Settings of the system, its tables of timed jobs among them."""
    system_bus_files: Path = Path("/usr/local/share") / SYSTEM_BUS
    """The administrator's own files that tell the system's bus what it may start."""
    state: Path = Path()
    """What this program keeps of the user's beyond its data: log, journal of changes."""

    @classmethod
    def of(cls, environment: Mapping[str, str], home: Path) -> "Folders":
        """The folders of the user whose environment and home these are."""
        named = environment.get("XDG_CONFIG_HOME", "")
        kept = environment.get("XDG_STATE_HOME", "")
        shared = environment.get("XDG_CONFIG_DIRS") or "/etc/xdg"
        return cls(
            config=Path(named) if named.startswith("/") else home / ".config",
            state=(Path(kept) if kept.startswith("/") else home / ".local/state") / "plucky-ledger",
            shared_config=tuple(Path(folder) for folder in shared.split(":") if folder),
        )

    @classmethod
    def of_this_user(cls) -> "Folders":
        """The folders of whoever runs this process.

        The administrator may have been handed a user's environment (``sudo -E``): what it names
        counts only where nobody but the administrator could have put anything.
        """
        if not is_administrator():
            return cls.of(os.environ, own_home())
        named = {
            name: folder
            for name in ("XDG_CONFIG_HOME", "XDG_STATE_HOME")
            if lies_with_the_administrator(Path(folder := os.environ.get(name, "")))
        }
        return cls.of(named, own_home())

    @property
    def journal_of_changes(self) -> Path:
        """Where a user's journal of changes lies."""
        return self.state / JOURNAL_OF_CHANGES

    @property
    def journal_of_the_system(self) -> Path:
        """Where the administrator's journal of changes lies."""
        return self.administrators / JOURNAL_OF_CHANGES

    @property
    def user_units(self) -> Path:
        """Units of the user's own service manager."""
        return self.config / "systemd/user"

    @property
    def own_bus_files(self) -> Path:
        """The user's own files that tell the bus of their session what it may start."""
        return self.config.parent / ".local/share" / SESSION_BUS

    @property
    def autostart(self) -> Path:
        """The user's own sign-in programs."""
        return self.config / "autostart"

    @property
    def all_autostart(self) -> tuple[Path, ...]:
        """Everywhere sign-in programs lie, the most important first."""
        return tuple(folder / "autostart" for folder in (self.config, *self.shared_config))
