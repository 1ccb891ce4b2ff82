"""What a night shift is to do, and how it stands: one file where only the administrator writes.

Which state each boot was in is not believed but read from the journals of changes, so that nothing
that cuts in can book a boot to a state it was not in.
"""

from pathlib import Path

import msgspec

from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.linux.files import make_folder, read_bounded, write_whole
from plucky_ledger.linux.folders import Folders

LARGEST_BYTES = 200_000
MOST_ENTRIES = 8
READ_BY_ALL = 0o644
MOST_CUT = 6
"""A PC that is cut off more often than this is not left to itself any longer."""
STOP_WISHED = "night-shift-stop"
"""Name of a file in the user's state folder: whoever makes it wants the night shift stopped."""


class Booted(msgspec.Struct, frozen=True):
    """One boot of the night, and the entries that were off in it."""

    boot_id: str
    off: tuple[str, ...] | None
    """None where switching had been cut off: nobody knows what it was."""
    cut: bool = False
    """It ended before the night shift had it restarted: another boot takes its place."""


class NightPlan(msgspec.Struct, frozen=True):
    """A night shift. Seconds of the wall clock are since 1970."""

    key: str
    """By which its changes stand in the journals."""
    job: str
    """Label of the job."""
    user: int
    """Whose sign-in programs and services are switched, and who wished it."""
    entries: tuple[str, ...]
    """Ids of what may be switched, and nothing else."""
    series: tuple[tuple[str, ...], ...]
    """What is to be off in each boot, where nobody knows better by what was measured."""
    usual_seconds: float
    """How long such a boot takes until it has settled."""
    wanted: tuple[EntryState, ...] = ()
    """How each of them is set where a state has it switched; off, where that is not told."""
    asks: tuple[str, ...] = ()
    """The user's own command that says what is measured next; it is run as that user alone."""
    until: float = 0.0
    """When it is to stop, by the wall clock; 0 for not before the series is through."""
    boots: tuple[Booted, ...] = ()
    restart_asked: float = 0.0
    """When the last restart was asked for; 0 once the PC has come up."""
    ended: str = ""
    """Code of the reason; empty while it goes on."""
    ended_at: float = 0.0
    restored: bool = False
    """Everything is put back."""

    @property
    def recorded(self) -> int:
        """Boots that came to their end."""
        return sum(not booted.cut for booted in self.boots)

    def state_of(self, entry: str) -> EntryState:
        """How an entry is set in the states that have it switched."""
        wanted = dict(zip(self.entries, self.wanted, strict=False))
        return wanted.get(entry, EntryState.OFF)


class NextState(msgspec.Struct, frozen=True):
    """What the user's own command answers."""

    off: tuple[str, ...] | None
    """None where every interval is narrow enough."""


def plan_path(folders: Folders) -> Path:
    """Where the plan lies."""
    return folders.administrators / "night-shift.json"


def read_plan(folders: Folders) -> NightPlan | None:
    """The night shift that is going on, or the last; None where there is none to be read."""
    try:
        return msgspec.json.decode(read_bounded(plan_path(folders), LARGEST_BYTES), type=NightPlan)
    except (OSError, msgspec.DecodeError):
        return None


def keep_plan(plan: NightPlan, folders: Folders) -> NightPlan:
    """Write how it stands, on the disk before anything else happens. Raises OSError."""
    path = plan_path(folders)
    make_folder(path.parent, 0o755)
    write_whole(path, msgspec.json.encode(plan), mode=READ_BY_ALL)
    return plan
