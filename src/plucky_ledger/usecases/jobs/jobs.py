"""Taking a PC in, keeping its card, and reading jobs."""

from collections.abc import Mapping
from dataclasses import replace

from sqlalchemy.orm import Session

from plucky_ledger.core.job.job import Card, Job
from plucky_ledger.core.job.like_with_like import with_later_figures
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.pc.which import THIS_OR_ANOTHER, WhichPc
from plucky_ledger.core.values.nearest import nearest
from plucky_ledger.core.values.steps import StepCode
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.store import jobs as stored
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.undo import step
from plucky_ledger.usecases.jobs.clock import now

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


def free_label(session: Session, wanted: str) -> str:
    """A label for a job that comes from elsewhere: its own, unless that is another's here."""
    taken = stored.labels(session)
    return wanted if wanted and wanted not in taken else _next_label(taken)


def _next_label(taken: Mapping[str, object]) -> str:
    used = [int(label) for label in taken if label.isdigit()]
    return f"{max(used, default=0) + 1:04d}"


def jobs_of_owner(ledger: Ledger, owner: str) -> list[int]:
    """Numbers of the jobs on PCs of one owner, by title.

    Raises:
        Refused: there is none.
    """
    with ledger.session() as session:
        jobs = [job for job in stored.read_jobs(session) if job.card.owner == owner.strip()]
        owners = sorted({job.card.owner for job in stored.read_jobs(session)} - {""})
    if not jobs:
        meant = ", ".join(nearest(owner, owners) or owners[:NAMED_LABELS])
        raise Refused(TroubleCode.NO_SUCH_OWNER, owner=owner, nearest=meant)
    return [job.number for job in sorted(jobs, key=lambda job: job.card.title)]


def find_job(ledger: Ledger, label: str) -> int:
    """Number of the job with this label on it.

    Raises:
        Refused: there is none.
    """
    with ledger.session() as session:
        numbers = stored.labels(session)
    if label not in numbers:
        titles = {title: known for known, (_, title) in numbers.items()}
        meant = [titles.get(name, name) for name in nearest(label, [*numbers, *titles])]
        named = ", ".join(list(numbers)[:NAMED_LABELS])
        raise Refused(
            TroubleCode.NO_SUCH_LABEL,
            label=label,
            known=named,
            nearest=", ".join(dict.fromkeys(meant)),
        )
    return numbers[label][0]


def read_job(ledger: Ledger, number: int) -> Job:
    """One job with its postings and boots. Raises Trouble when there is none."""
    with ledger.session() as session:
        return with_later_figures(stored.read_job(session, number))


def read_jobs(ledger: Ledger) -> tuple[Job, ...]:
    """Every job, newest first."""
    with ledger.session() as session:
        return tuple(map(with_later_figures, stored.read_jobs(session)))
