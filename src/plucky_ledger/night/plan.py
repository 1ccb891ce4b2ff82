"""What a night shift is to do, and how it stands.

Which state each boot was in is not believed but read from the journals of changes, so that nothing
that cuts in can book a boot to a state it was not in.
"""

import msgspec

from plucky_ledger.core.entries.states import EntryState

MOST_ENTRIES = 8
MOST_CUT = 6
"""A PC that is cut off more often than this is not left to itself any longer."""
MOST_UNRECORDED = 2
"""After so many boots that were not recorded to their end the night is over."""
STOP_WISHED = "night-shift-stop"
"""Name of a file in the user's state folder: whoever makes it wants the night shift stopped."""


class Booted(msgspec.Struct, frozen=True):
    """One boot of the night, and the entries that were off in it."""

    boot_id: str
    off: tuple[str, ...] | None
    """None where switching had been cut off: nobody knows what it was."""
    cut: bool = False
    """It ended before the night shift had it restarted: another boot takes its place."""
    recorded: bool | None = None
    """Whether its recording ended whole; None while that is not known yet."""

    @property
    def counts(self) -> bool:
        """Whether it is one of the boots that were to be recorded."""
        return not self.cut and self.recorded is not False


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
        """Boots that came to their end and were recorded."""
        return sum(booted.counts for booted in self.boots)

    @property
    def unrecorded(self) -> int:
        """Boots that came to their end without a whole recording."""
        return sum(booted.recorded is False and not booted.cut for booted in self.boots)

    def state_of(self, entry: str) -> EntryState:
        """How an entry is set in the states that have it switched."""
        states = dict(zip(self.entries, self.wanted, strict=False))
        return states.get(entry, EntryState.OFF)


class NextState(msgspec.Struct, frozen=True):
    """What the user's own command answers."""

    off: tuple[str, ...] | None
    """None where every interval is narrow enough."""
