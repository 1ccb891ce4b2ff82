"""Switching startup entries: to what, what still starts them, and what became of it."""

from collections.abc import Sequence
from dataclasses import dataclass

from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.values.reasons import Reason

LATER_TIMER = "plucky-ledger-later-"
"""How names of timers begin that start an entry later."""
LATER_SECONDS = 180
"""How long after the PC, or the session, an entry starts that starts later."""


@dataclass(frozen=True, kw_only=True)
class Switchable:
    """One entry as its PC has it."""

    entry_id: str
    state: EntryState | None
    """How it is set; None where that cannot be told."""
    possible: tuple[EntryState, ...]
    """What it can be set to; empty where it cannot be switched."""
    delivered: EntryState | None = None
    """How the vendor set it; None where nobody says."""
    started_by: tuple[Reason, ...] = ()
    """What starts it besides the PC's start itself: other units, sockets, names on the bus."""
    needed_by: tuple[str, ...] = ()
    """What cannot be without it."""
    administrators: bool = False
    """It is the administrator who switches it."""
    cannot: Reason | None = None
    """Why it cannot be switched; None where it can."""


@dataclass(frozen=True)
class EntryRequest:
    """How an entry is to be set."""

    entry_id: str
    name: str
    state: EntryState
    later_seconds: int = LATER_SECONDS


@dataclass(frozen=True)
class Switched:
    """What became of a wish."""

    entry_id: str
    name: str
    before: EntryState | None
    after: EntryState | None
    """How it is set now, as the PC itself tells."""
    started_by: tuple[Reason, ...] = ()
    """What may start it all the same."""


@dataclass(frozen=True)
class PutBack:
    """An entry that was put back."""

    entry_id: str
    left_at: str = ""
    """Path that others have written to since, left as it is; empty where there is none."""


@dataclass(frozen=True, kw_only=True)
class Reversible:
    """Changes that were made to a PC together, as its journal of changes keeps them."""

    key: str
    """Of the posting they belong to."""
    at: str
    """When, in UTC."""
    job: str
    """Label of the job."""
    entries: tuple[str, ...]
    """Ids of entries that are still as these changes set them."""
    put_back: tuple[str, ...]
    """Ids of entries that were put back since."""
    unfinished: bool
    """Making or undoing them was cut off."""


def unfinished(changes: Sequence[Reversible]) -> list[Reversible]:
    """Those that were cut off."""
    return [change for change in changes if change.unfinished]
