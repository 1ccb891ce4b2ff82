"""The workplace: where this bench keeps its files, apart from the ledger it writes in."""

import os
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.linux.users import own_home

APPLICATION = "plucky-ledger"
PREFERENCES = "preferences.json"
DEMO_LEDGER = "demo.ledger"
"""Name of the file with the demo, beside the workshop's ledger."""


@dataclass(frozen=True)
class Workplace:
    """Folders of one bench."""

    recordings: Path
    """Where recordings are written until they are in the ledger."""

    @property
    def logs(self) -> Path:
        """Where the log is kept: with what the desktop keeps of this user's state."""
        from platformdirs import user_state_path

        return _in_the_home(user_state_path) or self.recordings

    @classmethod
    def beside(cls, ledger: Path) -> "Workplace":
        """The workplace of a ledger that is this file: its recordings lie beside it."""
        return cls(ledger.parent / "recordings")

    def armed(self, job: int) -> Path:
        """Where the armed recordings of a job lie until they are in its book."""
        return self.recordings / f"armed-{job}"


def default_ledger() -> Path:
    """The workshop's ledger, where the desktop keeps a user's data.

    Raises:
        Refused: this user has no home folder.
    """
    from platformdirs import user_data_path

    folder = _in_the_home(user_data_path)
    if folder is None:
        raise Refused(TroubleCode.NO_HOME)
    return folder / "workshop.ledger"


def config_folder() -> Path | None:
    """Where the desktop keeps what a user prefers; None for a user without a home."""
    from platformdirs import user_config_path

    return _in_the_home(user_config_path)


def may_have_preferences() -> bool:
    """Whether it is worth loading what reads them: told by a look alone."""
    usual = own_home() / ".config" / APPLICATION / PREFERENCES
    return bool(os.environ.get("XDG_CONFIG_HOME")) or usual.is_file()


def _in_the_home(folder_for: Callable[[str], Path]) -> Path | None:
    """A folder of this user's; None for a user without a home."""
    try:
        folder = folder_for(APPLICATION)
    except RuntimeError:
        return None
    return folder if folder.is_absolute() else None


def home_folder() -> Path:
    """Where a user looks first for what they save."""
    return own_home()
