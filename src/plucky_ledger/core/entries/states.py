"""How a startup entry can be set."""

from enum import StrEnum


class EntryState(StrEnum):
    """How a startup entry is set."""

    ON = "on"
    OFF = "off"
    """It is not started with the PC or at sign-in; others that need it still start it."""
    LATER = "later"
    """It is started some minutes after the PC or the session."""
    OFF_FOR_GOOD = "off_for_good"
    """Nothing may start it."""
    WHEN_NEEDED = "when_needed"
    """It is started by the first who needs it, through its socket or its name on the bus."""
    OFF_HERE = "off_here"
    """A sign-in program that is not started in this desktop."""
    AS_DELIVERED = "as_delivered"
    """As the vendor set it."""


NOT_STARTED = frozenset(
    {EntryState.OFF, EntryState.OFF_FOR_GOOD, EntryState.WHEN_NEEDED, EntryState.OFF_HERE}
)
"""States in which an entry is not there when the PC starts."""
STARTED = frozenset({EntryState.ON, EntryState.AS_DELIVERED})
