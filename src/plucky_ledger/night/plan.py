"""Plan and progress of a night shift.

The state of each boot is read from the journals of changes, never assumed: an interruption can
therefore not book a boot to a state it was not in.
"""

import msgspec

from plucky_ledger.core.entries.states import EntryState

MOST_ENTRIES = 8
MOST_CUT = 6
"""Most interrupted boots; after more the night ends."""
MOST_UNRECORDED = 2
"""Most boots without a complete recording; after so many the night ends."""
STOP_WISHED = "night-shift-stop"
"""Name of the file in the user's state folder that requests the end of the night shift."""


class Booted(msgspec.Struct, frozen=True):
    """One boot of the night, and the entries that were off in it."""

    boot_id: str
    off: tuple[str, ...] | None
    """None where switching was interrupted, so that the state is unknown."""
    cut: bool = False
    """It ended before the night shift requested the restart; it is repeated."""
    recorded: bool | None = None
    """Whether its recording ended whole; None while that is not known yet."""

    @property
    def counts(self) -> bool:
        """Whether it is one of the boots that were to be recorded."""
        return not self.cut and self.recorded is not False


class NightPlan(msgspec.Struct, frozen=True):
    """A night shift. Seconds of the wall clock are since 1970."""

    key: str
    """Its key in the journals of changes."""
    job: str
    """Label of the job."""
    user: int
    """User id of the person who requested it, whose sign-in programs and services are switched."""
    entries: tuple[str, ...]
    """Ids of what may be switched, and nothing else."""
    series: tuple[tuple[str, ...], ...]
    """Entries off in each boot, unless measuring so far suggests a better next state."""
    usual_seconds: float
    """Expected seconds until such a boot has settled."""
    wanted: tuple[EntryState, ...] = ()
    """Target state of each entry when it is switched; off where not given."""
    asks: tuple[str, ...] = ()
    """The user's own command that says what is measured next; it is run as that user alone."""
    until: float = 0.0
    """When it is to stop, by the wall clock; 0 for not before the series is through."""
    notice: str = ""
    """What is shown at the PC while it may be stopped, in the language of who began it."""
    accepts: tuple[str, ...] = ()
    """Programs that delayed restarts when it was begun, and were told of: they hold up nothing."""
    boots: tuple[Booted, ...] = ()
    restart_asked: float = 0.0
    """When the last restart was asked for; 0 once the PC has come up."""
    ended: str = ""
    """Code of the reason; empty while it goes on."""
    ended_by: str = ""
    """What the reason is about, such as who held up the restart."""
    ended_at: float = 0.0
    tries: int = 0
    """How often it was tried to put everything back."""
    restored: bool = False
    """Everything is put back."""
    left: tuple[str, ...] = ()
    """Entries and files that are not as they were at the beginning, once it is over."""

    @property
    def recorded(self) -> int:
        """Completed boots with a complete recording."""
        return sum(booted.counts for booted in self.boots)

    @property
    def unrecorded(self) -> int:
        """Completed boots without a complete recording."""
        return sum(booted.recorded is False and not booted.cut for booted in self.boots)

    def state_of(self, entry: str) -> EntryState:
        """Target state of an entry when it is switched."""
        states = dict(zip(self.entries, self.wanted, strict=False))
        return states.get(entry, EntryState.OFF)


class NextState(msgspec.Struct, frozen=True):
    """Answer of the user's command: the next state to measure."""

    off: tuple[str, ...] | None
    """None where every interval is narrow enough."""
