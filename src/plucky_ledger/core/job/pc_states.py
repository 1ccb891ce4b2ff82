"""States of a PC: all boots recorded with the same set of changes in force belong together.

Put back and switched off again is the same state, whenever its boots were recorded. A visit
begins with a state of its own: nobody knows what happened elsewhere.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from plucky_ledger.core.boots.boot import Boot
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.job.changes import Change, undoing
from plucky_ledger.core.job.job import Job, State, posting_of
from plucky_ledger.core.job.postings import Posting


@dataclass(frozen=True)
class PcStates:
    """The states that a job's rounds were recorded in."""

    of_round: tuple[State, ...]
    """Of the opening round, then of each posting's."""

    def now(self, job: Job) -> State:
        """The state the PC is in."""
        posted = job.last_posted
        return self.of_round[job.postings.index(posted) + 1 if posted is not None else 0]

    def boots(self, job: Job, round_index: int) -> tuple[Boot, ...]:
        """All boots recorded in the state of a round, by when they started."""
        return self.boots_in(job, self.of_round[round_index])

    def boots_in(self, job: Job, wanted: State) -> tuple[Boot, ...]:
        """All boots recorded in a state, by when they started."""
        same = [
            boot
            for state, boots in zip(self.of_round, job.rounds, strict=True)
            if state == wanted
            for boot in boots
        ]
        return tuple(sorted(same, key=lambda boot: (boot.started_at, boot.number)))


@dataclass(frozen=True)
class Factor:
    """One way in which states of a PC differ."""

    key: tuple[str, ...]
    """As it stands in a state."""
    change: Change | None
    """What makes it so; None for what happened elsewhere before a visit."""


def factors_of(job: Job) -> tuple[Factor, ...]:
    """Everything that was ever changed on a job's PC, in the order in which it was first."""
    known: dict[tuple[str, ...], Change | None] = {}
    states = states_of(job)
    for posting, state in zip(job.postings, states.of_round[1:], strict=True):
        for key in sorted(state - known.keys()):
            made = (change for change in posting.changes if key_of(change) == key)
            known[key] = next(made, None)
    return tuple(Factor(key, change) for key, change in known.items())


def key_of(change: Change) -> tuple[str, ...]:
    """How a change stands in the states that have it."""
    if change.entry_id and change.new_state is not None:
        return (change.entry_id, change.new_state.value)
    return (change.kind.value, change.what)


def states_of(job: Job) -> PcStates:
    """The state of the PC in each round, by what was posted. What is pencilled is none yet."""
    found: dict[str, str] = {}
    now: dict[tuple[str, ...], tuple[str, ...]] = {}
    states = [_as_state(now)]
    for posting in job.postings:
        if posting.posted_at is not None:
            if posting.opens_visit:
                now = {("visit",): (str(posting.number),)}
            for change in _changes(job, posting):
                _apply(now, found, change)
        states.append(_as_state(now))
    return PcStates(tuple(states))


def _as_state(now: dict[tuple[str, ...], tuple[str, ...]]) -> State:
    return frozenset((*about, *how) for about, how in now.items())


def _changes(job: Job, posting: Posting) -> Sequence[Change]:
    """What a posting did; of one that puts another back, what it undoes of that."""
    struck = posting_of(job, posting.strikes_out) if posting.strikes_out is not None else None
    if struck is None or struck is posting:
        return posting.changes
    return [undoing(change) for change in struck.own_changes if not change.put_back]


def _apply(
    now: dict[tuple[str, ...], tuple[str, ...]], found: dict[str, str], change: Change
) -> None:
    """One change: an entry is set, something else is done or undone."""
    if change.entry_id and change.new_state is not None:
        entry, state = (change.entry_id,), change.new_state.value
        first = found.setdefault(change.entry_id, (change.old_state or EntryState.ON).value)
        if state == first:
            now.pop(entry, None)
        else:
            now[entry] = (state,)
        return
    about = (change.kind.value, change.what)
    if change.put_back:
        now.pop(about, None)
    else:
        now[about] = ()
