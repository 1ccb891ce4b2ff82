"""How startup entries are set: by what was posted, and by what is pencilled."""

from collections.abc import Mapping
from dataclasses import replace

from plucky_ledger.core.entries.decisions import Decided, Decision
from plucky_ledger.core.entries.states import NOT_STARTED, STARTED, EntryState
from plucky_ledger.core.job.job import Job
from plucky_ledger.core.job.postings import Posting

STATE_OF = {
    Decision.KEEP: EntryState.ON,
    Decision.LOOK_UP: EntryState.ON,
    Decision.OFF: EntryState.OFF,
    Decision.LATER: EntryState.LATER,
}
"""How an entry is to be set by what is decided about it."""
DECISION_OF: Mapping[EntryState, Decision] = {
    **dict.fromkeys(NOT_STARTED, Decision.OFF),
    EntryState.LATER: Decision.LATER,
    **dict.fromkeys(STARTED, Decision.KEEP),
}
"""What is decided about an entry by how it is to be set."""


def entry_states(job: Job) -> dict[str, EntryState]:
    """How the startup entries are set by everything posted so far; the others are as found."""
    states: dict[str, EntryState] = {}
    for posting in job.postings:
        if posting.posted_at is not None:
            states.update(_states_set_by(posting))
    return states


def pencilled_states(job: Job) -> dict[str, EntryState]:
    """How entries are to be set by what is pencilled."""
    return _states_set_by(job.pencilled) if job.pencilled else {}


def _states_set_by(posting: Posting) -> dict[str, EntryState]:
    return {c.entry_id: c.new_state for c in posting.changes if c.entry_id and c.new_state}


def decisions_of(job: Job, written: Mapping[str, Decided]) -> dict[str, Decided]:
    """What was decided in a job, by entry id; what was only posted counts as decided, too.

    ``written`` are the decisions as they were written down. What was put back is not decided any
    more, unless it was decided to keep it.
    """
    decisions: dict[str, Decided] = {}
    for posting in job.postings:
        for change in posting.changes:
            if change.put_back:
                decisions.pop(change.entry_id, None)
            elif change.entry_id and change.new_state:
                decision = DECISION_OF[change.new_state]
                when = posting.posted_at or job.taken_in_at
                decisions[change.entry_id] = Decided(
                    entry_id=change.entry_id,
                    decision=decision,
                    decided_at=when,
                    name=change.what,
                    reason=change.why,
                )
    for entry_id, decided in written.items():
        posted = decisions.get(entry_id)
        state = STATE_OF[posted.decision] if posted else EntryState.ON
        if STATE_OF[decided.decision] is state:
            decisions[entry_id] = decided
        elif posted is not None:
            # Posted or put back since: that stands, with what was said about it before.
            decisions[entry_id] = replace(decided, decision=posted.decision, reason=posted.reason)
        elif decided.finding:
            decisions[entry_id] = replace(decided, decision=Decision.LOOK_UP)
    return decisions
