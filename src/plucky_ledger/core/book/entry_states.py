"""How startup entries are set: by what was posted, by what is pencilled, and what that taught."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

from plucky_ledger.core.book.book import keep_book
from plucky_ledger.core.book.job import Job, Posting, PostingState, state_of
from plucky_ledger.core.entries.decisions import Decided, Decision
from plucky_ledger.core.entries.states import NOT_STARTED, STARTED, EntryState
from plucky_ledger.core.measures import Measure

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

    ``written`` are the decisions as they were written down.
    """
    decisions: dict[str, Decided] = {}
    for posting in job.postings:
        for change in posting.changes:
            if change.entry_id and change.new_state:
                decision = DECISION_OF[change.new_state]
                when = posting.posted_at or job.taken_in_at
                decisions[change.entry_id] = Decided(
                    change.entry_id, decision, when, change.what, change.why
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


@dataclass(frozen=True)
class MeasuredEffect:
    """What changing an entry did on one job."""

    saved_seconds: float | None
    """Measured saving in settled; None where it was not changed alone, or not yet."""
    put_back: bool


def measured_effects(job: Job) -> dict[str, MeasuredEffect]:
    """Effect of each entry that was changed, and whether it was put back since, by entry id."""
    effects: dict[str, MeasuredEffect] = {}
    for line in keep_book(job, Measure.SETTLED).lines:
        posting = line.posting
        if posting is None or posting.strikes_out is not None:
            continue
        undone = state_of(job, posting) is PostingState.STRUCK_OUT
        alone = len(posting.changes) == 1 and line.shift is not None
        for change in posting.changes:
            if not change.entry_id or change.new_state is None:
                continue
            if change.new_state in STARTED:
                before = effects.get(change.entry_id)
                saved = before.saved_seconds if before else None
                effects[change.entry_id] = MeasuredEffect(saved, put_back=True)
            else:
                shift = line.shift
                saved = -shift.value if alone and shift is not None else None
                effects[change.entry_id] = MeasuredEffect(saved, undone)
    return effects
