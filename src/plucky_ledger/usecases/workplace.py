"""The workplace: where this bench keeps its files, apart from the ledger it writes in."""

from dataclasses import dataclass
from pathlib import Path

APPLICATION = "plucky-ledger"


@dataclass(frozen=True)
class Workplace:
    """Folders of one bench."""

    recordings: Path
    """Where recordings are written until they are in the ledger."""

    @property
    def logs(self) -> Path:
        """Where the log is kept: with what the desktop keeps of this user's state."""
        from platformdirs import user_state_path

        return user_state_path(APPLICATION)

    @classmethod
    def beside(cls, ledger: Path) -> "Workplace":
        """The workplace of a ledger that is this file: its recordings lie beside it."""
        return cls(ledger.parent / "recordings")

    def armed(self, job: int) -> Path:
        """Where the armed recordings of a job lie until they are in its book."""
        return self.recordings / f"armed-{job}"


def default_ledger() -> Path:
    """The workshop's ledger, where the desktop keeps a user's data."""
    from platformdirs import user_data_path

    return user_data_path(APPLICATION) / "workshop.ledger"
