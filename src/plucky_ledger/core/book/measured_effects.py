"""What changing an entry alone did on a job: what other jobs learn from it."""

from dataclasses import dataclass

from plucky_ledger.core.book.book import keep_book
from plucky_ledger.core.entries.states import STARTED
from plucky_ledger.core.job.job import Job, state_of
from plucky_ledger.core.job.postings import PostingState
from plucky_ledger.core.values.measures import Measure


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
