"""Deciding about startup entries: what shall become of each, and why."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from sqlalchemy.orm import Session

from plucky_ledger.core.entries.decisions import Decided, Decision
from plucky_ledger.core.entries.entry import StartupEntry
from plucky_ledger.core.entries.hints import HintKind, is_guarded
from plucky_ledger.core.entries.states import EntryState
from plucky_ledger.core.job.changes import Change, ChangeKind
from plucky_ledger.core.job.entry_states import STATE_OF, decisions_of, entry_states
from plucky_ledger.core.job.job import Job
from plucky_ledger.core.job.postings import Posting
from plucky_ledger.core.values.reasons import Reason, ReasonCode
from plucky_ledger.core.values.steps import StepCode
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.store import decisions as stored
from plucky_ledger.store.jobs import read_job, remove_posting, write_posting
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.undo import step
from plucky_ledger.usecases.jobs.clock import now
from plucky_ledger.usecases.reading.hints import hints_about


@dataclass(frozen=True)
class _Wish:
    """What somebody wants to become of an entry."""

    entry: StartupEntry
    decision: Decision
    reason: str
    state: EntryState | None = None
    """How it is to be set; None for what the decision means by itself."""


def decide(
    ledger: Ledger,
    number: int,
    entries: Sequence[StartupEntry],
    decision: Decision,
    reason: str = "",
    deliberate: bool = False,
    state: EntryState | None = None,
) -> None:
    """Decide about some entries of a job in one step; what is to be changed is pencilled.

    ``state`` says more exactly how they are to be set, such as off for good.

    Raises:
        Refused: nothing chosen, or a guarded entry would be changed without ``deliberate``.
    """
    if not entries:
        raise Refused(TroubleCode.NO_ENTRY_CHOSEN)
    if decision in {Decision.OFF, Decision.LATER} and not deliberate:
        _refuse_guarded(entries, decision)
    name, many = entries[0].name, len(entries)
    with step(
        ledger, StepCode.DECIDE, number, decision=decision.value, name=name, entries=many
    ) as session:
        _write(session, number, [_Wish(entry, decision, reason, state) for entry in entries])


def _refuse_guarded(entries: Sequence[StartupEntry], decision: Decision) -> None:
    """All guarded entries are named, with what is risked: none is in a batch unseen."""
    hints = hints_about(entries)
    guarded = [e for e in entries if is_guarded(e, hints.get(e.entry_id, ()))]
    if not guarded:
        return
    risks = [
        hint.evidence
        for entry in guarded
        for hint in hints.get(entry.entry_id, ())
        if hint.kind is HintKind.GUARDED
    ]
    if any(entry.part_of_system for entry in guarded):
        risks.append(Reason(ReasonCode.PART_OF_SYSTEM))
    different = [risk for at, risk in enumerate(risks) if risk not in risks[:at]]
    names = ", ".join(entry.name for entry in guarded)
    raise Refused(TroubleCode.GUARDED_ENTRY, different, name=names, decision=decision.value)


def give_reason(ledger: Ledger, number: int, entries: Sequence[StartupEntry], reason: str) -> None:
    """Say why something was decided; an entry nobody decided about yet is kept for that reason."""
    name, many = entries[0].name, len(entries)
    with step(ledger, StepCode.GIVE_REASON, number, name=name, entries=many) as session:
        decided_before = decisions_of(read_job(session, number), stored.decisions(session, number))
        keep = Decision.KEEP
        _write(
            session,
            number,
            [
                _Wish(
                    entry,
                    decided_before[entry.entry_id].decision
                    if entry.entry_id in decided_before
                    else keep,
                    reason,
                )
                for entry in entries
            ],
        )


def write_finding(ledger: Ledger, number: int, entry_id: str, finding: str) -> None:
    """Write down what looking an entry up has told.

    Raises:
        Refused: nobody decided about the entry.
    """
    previous = decisions_in(ledger, number).get(entry_id)
    if previous is None:
        raise Refused(TroubleCode.NOT_LOOKED_UP)
    with step(ledger, StepCode.WRITE_FINDING, number, name=previous.name) as session:
        stored.write_decisions(session, number, [replace(previous, finding=finding.strip())])


def decisions_in(ledger: Ledger, number: int) -> dict[str, Decided]:
    """What was decided in a job, by entry id; what was only posted counts as decided, too."""
    with ledger.session() as session:
        return decisions_of(read_job(session, number), stored.decisions(session, number))


def _write(session: Session, number: int, wishes: Sequence[_Wish]) -> None:
    """Write decisions and the pencilled posting that follows from them."""
    job, earlier = read_job(session, number), stored.decisions(session, number)
    decided = [_decided(wish, earlier.get(wish.entry.entry_id)) for wish in wishes]
    stored.write_decisions(session, number, decided)
    exactly = {wish.entry.entry_id: wish.state for wish in wishes if wish.state is not None}
    pencilled = _pencilled(job, decided, exactly)
    if pencilled.changes:
        write_posting(session, number, pencilled)
    elif pencilled.number:
        remove_posting(session, pencilled.number)


def _decided(wish: _Wish, earlier: Decided | None) -> Decided:
    return Decided(
        entry_id=wish.entry.entry_id,
        decision=wish.decision,
        decided_at=now(),
        name=wish.entry.name,
        reason=wish.reason.strip() or (earlier.reason if earlier else ""),
        finding=earlier.finding if earlier else "",
        identity=wish.entry.identity,
    )


def _pencilled(job: Job, decided: Sequence[Decided], exactly: Mapping[str, EntryState]) -> Posting:
    """The pencilled posting with the changes that follow from some decisions."""
    posting = job.pencilled or Posting(number=0, changes=())
    about = {entry.entry_id for entry in decided}
    kept = [change for change in posting.changes if change.entry_id not in about]
    states = entry_states(job)
    for entry in decided:
        state = exactly.get(entry.entry_id, STATE_OF[entry.decision])
        if states.get(entry.entry_id, EntryState.ON) is not state:
            kind = ChangeKind.STARTUP_ENTRY
            kept.append(
                Change(
                    kind=kind,
                    what=entry.name,
                    why=entry.reason,
                    entry_id=entry.entry_id,
                    new_state=state,
                )
            )
    return replace(posting, changes=tuple(kept))
