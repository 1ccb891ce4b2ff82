"""Interface to switch the entries of a job's PC, with its implementation for a stand-in PC."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol

from plucky_ledger.control.requests import RevertSelection, SwitchRequest
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.entries.switching import PutBack, Reversible, Switchable, Switched
from plucky_ledger.core.job.job import Job
from plucky_ledger.core.pc.which import PcKind
from plucky_ledger.core.values.reasons import Reason
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.jobs.jobs import read_job
from plucky_ledger.usecases.recording.pcs import is_this_pc

_OF_A_STAND_IN = (
    EntryState.ON,
    EntryState.OFF,
    EntryState.LATER,
    EntryState.OFF_FOR_GOOD,
    EntryState.AS_DELIVERED,
)


class Control(Protocol):
    """Switches the startup entries of one PC, and puts back what was switched."""

    def look(self, entry_ids: Sequence[str]) -> dict[str, Switchable]:
        """How entries are set, and to what they can be set, by their ids."""

    def switch(self, order: SwitchRequest) -> list[Switched]:
        """Set entries as ordered, all or none. Raises Trouble; everything is as it was then."""

    def put_back(self, which: RevertSelection) -> list[PutBack]:
        """Undo changes, and what was cut off; returns what was undone. Raises Trouble."""

    def changes(self) -> list[Reversible]:
        """What was changed there and when, the oldest first."""

    def left_out(self) -> list[Reason]:
        """Files of its journals of changes that are not believed, each with why."""


@dataclass(frozen=True)
class ControlOfStandIn:
    """A stand-in PC is as its job's book says: what is posted there is done by being posted."""

    job: Job

    def look(self, entry_ids: Sequence[str]) -> dict[str, Switchable]:
        """How entries are set, and to what they can be set, by their ids."""
        from plucky_ledger.usecases.recording.stand_ins import stand_in_states

        states = stand_in_states(self.job)
        return {
            entry_id: Switchable(
                entry_id=entry_id,
                state=states.get(entry_id, EntryState.ON),
                possible=_OF_A_STAND_IN,
                delivered=EntryState.ON,
            )
            for entry_id in entry_ids
        }

    def switch(self, order: SwitchRequest) -> list[Switched]:
        """Set entries as ordered."""
        before = self.look([wish.entry_id for wish in order.wishes])
        return [
            Switched(wish.entry_id, wish.name, before[wish.entry_id].state, wish.state)
            for wish in order.wishes
        ]

    def put_back(self, which: RevertSelection) -> list[PutBack]:
        """It is as its book says as soon as that says so."""
        return [
            PutBack(change.entry_id)
            for posting in self.job.postings
            for change in posting.changes
            if posting.uuid in which.keys and change.entry_id
            if not which.entries or change.entry_id in which.entries
        ]

    def changes(self) -> list[Reversible]:
        """It keeps none of its own."""
        return []

    def left_out(self) -> list[Reason]:
        """It keeps none of its own."""
        return []


def control_of_this_pc() -> Control:
    """The PC we run on."""
    from plucky_ledger.control.control_of_this_pc import ControlOfThisPc

    return ControlOfThisPc()


def control_of(job: Job) -> Control | None:
    """The control of a job's PC; None where that is another one, which is switched by hand.

    One that has not told which it is may be any: this PC is never switched for it.
    """
    if job.pc.kind is PcKind.STAND_IN:
        return ControlOfStandIn(job)
    return control_of_this_pc() if is_this_pc(job) else None


def possible_states(ledger: Ledger, number: int, entry_id: str) -> tuple[EntryState, ...]:
    """To what an entry of a job's PC can be set; any, where that PC is not here to be asked."""
    control = control_of(read_job(ledger, number))
    if control is None:
        return tuple(EntryState)
    return control.look([entry_id])[entry_id].possible
