"""Taking a PC in, keeping its card, and reading jobs."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

from sqlalchemy.orm import Session

from plucky_ledger.core.book.job import Card, Job
from plucky_ledger.core.entries.decisions import Decided, Decision
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.pc.which import THIS_OR_ANOTHER, WhichPc
from plucky_ledger.core.steps import StepCode
from plucky_ledger.core.trouble import Refused, TroubleCode
from plucky_ledger.store import entries as stored_entries
from plucky_ledger.store import jobs as stored
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.undo import step
from plucky_ledger.usecases.clock import now

NAMED_LABELS = 10
"""How many labels are named when one was not found."""


def take_in(ledger: Ledger, card: Card, facts: Facts, pc: WhichPc = THIS_OR_ANOTHER) -> int:
    """Take in a PC; returns the job's number in the ledger.

    Raises:
        Refused: the card has no title, or its label is already another job's.
    """
    with step(ledger, StepCode.TAKE_IN, None, title=card.title.strip()) as session:
        return stored.add_job(session, _checked(session, card, None), facts, pc, now())


def rewrite_card(
    ledger: Ledger, number: int, card: Card, facts: Facts, pc: WhichPc | None = None
) -> None:
    """Write a job's card and facts anew, and which PC it is about. Raises like ``take_in``."""
    with step(ledger, StepCode.CHANGE_CARD, number, title=card.title.strip()) as session:
        job = stored.read_job(session, number)
        checked = _checked(session, card, number)
        stored.write_job(session, replace(job, card=checked, facts=facts, pc=pc or job.pc))


def _checked(session: Session, card: Card, number: int | None) -> Card:
    trimmed = Card(
        card.label.strip(), card.title.strip(), card.owner.strip(), card.complaint.strip()
    )
    if not trimmed.title:
        raise Refused(TroubleCode.NO_TITLE)
    taken = stored.labels(session)
    if not trimmed.label:
        trimmed = replace(trimmed, label=_next_label(taken))
    other, title = taken.get(trimmed.label, (number, ""))
    if other != number:
        raise Refused(TroubleCode.LABEL_TAKEN, label=trimmed.label, title=title)
    return trimmed


def _next_label(taken: Mapping[str, object]) -> str:
    used = [int(label) for label in taken if label.isdigit()]
    return f"{max(used, default=0) + 1:04d}"


def find_job(ledger: Ledger, label: str) -> int:
    """Number of the job with this label on it.

    Raises:
        Refused: there is none.
    """
    with ledger.session() as session:
        known = stored.labels(session)
    if label not in known:
        named = ", ".join(list(known)[:NAMED_LABELS])
        raise Refused(TroubleCode.NO_SUCH_LABEL, label=label, known=named)
    return known[label][0]


def read_job(ledger: Ledger, number: int) -> Job:
    """One job with its postings and boots. Raises Trouble when there is none."""
    with ledger.session() as session:
        return stored.read_job(session, number)


def read_jobs(ledger: Ledger) -> tuple[Job, ...]:
    """Every job, newest first."""
    with ledger.session() as session:
        return stored.read_jobs(session)


@dataclass(frozen=True)
class OnShelf:
    """One job as it stands on the shelf."""

    job: Job
    look_ups: int
    """How many of its entries are to be looked up and nothing was found out about yet."""


def read_shelf(ledger: Ledger) -> tuple[OnShelf, ...]:
    """Every job as it stands on the shelf, newest first."""
    with ledger.session() as session:
        decided = stored_entries.all_decisions(session)
        return tuple(
            OnShelf(job, _open_look_ups(decided.get(job.number, {})))
            for job in stored.read_jobs(session)
        )


def read_on_shelf(ledger: Ledger, number: int) -> OnShelf | None:
    """One job as it stands on the shelf; None when it is no longer there."""
    with ledger.session() as session:
        if number not in {known for known, _ in stored.labels(session).values()}:
            return None
        decided = stored_entries.decisions(session, number)
        return OnShelf(stored.read_job(session, number), _open_look_ups(decided))


def _open_look_ups(decided: Mapping[str, Decided]) -> int:
    return sum(
        decided_entry.decision is Decision.LOOK_UP and not decided_entry.finding
        for decided_entry in decided.values()
    )
