"""What the workshop learned about the same program on other jobs, and what is still to look up."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from statistics import median

from plucky_ledger.core.book.book import keep_book
from plucky_ledger.core.book.job import EntryState, Job, PostingState, state_of
from plucky_ledger.core.entries.decisions import Decided, Decision, Identity
from plucky_ledger.core.measures import Measure
from plucky_ledger.store import jobs as stored
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.decisions import decisions_of
from plucky_ledger.wording.figures import count


@dataclass(frozen=True)
class Elsewhere:
    """What became of the same program on one other job."""

    job: Job
    decided: Decided
    matched_by: str
    """"package", "program" or "entry"."""
    saved_seconds: float | None
    """Measured saving in settled; None where it was not changed alone, or not yet."""
    put_back: bool


@dataclass(frozen=True)
class LookUp:
    """One entry left on to be researched."""

    job: Job
    decided: Decided


class Workshop:
    """All decisions of a ledger, read once and asked about many programs."""

    def __init__(self, ledger: Ledger) -> None:
        self._decided: list[tuple[Job, Mapping[str, Decided]]] = [
            (job, decisions_of(ledger, job)) for job in stored.all_jobs(ledger)
        ]
        self._effects: dict[int, dict[str, tuple[float | None, bool]]] = {}

    def elsewhere(self, identity: Identity, but_job: int) -> tuple[Elsewhere, ...]:
        """What was decided about a program on other jobs, the surest matches first."""
        found = []
        for job, decided in self._decided:
            if job.number == but_job:
                continue
            for entry_id, one in decided.items():
                known = one.identity if one.identity != Identity() else Identity(entry_id=entry_id)
                matched = identity.matches(known)
                if matched:
                    saved, put_back = self._effects_of(job).get(entry_id, (None, False))
                    found.append(Elsewhere(job, one, matched, saved, put_back))
        order = {"package": 0, "program": 1, "entry": 2}
        return tuple(sorted(found, key=lambda one: order[one.matched_by]))

    def look_ups(self) -> tuple[LookUp, ...]:
        """Everything to be looked up, over all jobs, what nobody has found out first."""
        found = [
            LookUp(job, one)
            for job, decided in self._decided
            for one in decided.values()
            if one.decision is Decision.LOOK_UP or one.finding
        ]
        return tuple(sorted(found, key=lambda one: (bool(one.decided.finding), one.job.card.label)))

    def _effects_of(self, job: Job) -> dict[str, tuple[float | None, bool]]:
        if job.number not in self._effects:
            self._effects[job.number] = _effects(job)
        return self._effects[job.number]


def _effects(job: Job) -> dict[str, tuple[float | None, bool]]:
    """Measured saving of each entry that was changed, and whether it was put back since."""
    found: dict[str, tuple[float | None, bool]] = {}
    for line in keep_book(job, Measure.SETTLED).lines:
        posting = line.posting
        if posting is None or posting.strikes_out is not None:
            continue
        undone = state_of(job, posting) is PostingState.STRUCK_OUT
        alone = len(posting.changes) == 1 and line.shift is not None
        for change in posting.changes:
            if not change.entry_id or change.new_state is None:
                continue
            if change.new_state is EntryState.ON:
                saved = found.get(change.entry_id, (None, False))[0]
                found[change.entry_id] = (saved, True)
            else:
                shift = line.shift
                saved = -shift.value if alone and shift is not None else None
                found[change.entry_id] = (saved, undone)
    return found


def in_words(found: Sequence[Elsewhere]) -> tuple[str, ...]:
    """What other jobs taught, one sentence each; empty when nothing."""
    if not found:
        return ()
    sentences = []
    changed = [one for one in found if one.decided.decision in {Decision.OFF, Decision.LATER}]
    if changed:
        sentences.append(
            f"switched off or started later on {len(changed)} of {count(len(found), 'other job')}"
        )
    else:
        sentences.append(f"left on, on {count(len(found), 'other job')}")
    saved = [one.saved_seconds for one in changed if one.saved_seconds is not None]
    if saved:
        sentences.append(f"saved {median(saved):.1f} s typically when measured alone")
    back = [one for one in found if one.put_back]
    if back:
        sentences.append(f"put back {count(len(back), 'time')}")
    sentences.extend(
        f"job {one.job.card.label}: “{one.decided.reason}”"
        for one in found[:3]
        if one.decided.reason
    )
    sentences.extend(
        f"found out: “{one.decided.finding}”" for one in found[:3] if one.decided.finding
    )
    return tuple(sentences)
