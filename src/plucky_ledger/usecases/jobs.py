"""Taking a PC in, and keeping its card."""

from dataclasses import replace

from plucky_ledger.core.book.job import Card, Job
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.store import jobs as stored
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.wording.figures import now


class Refused(Exception):
    """A wish that cannot be granted as it is; the text says why and what to try."""


def take_in(ledger: Ledger, card: Card, facts: Facts) -> int:
    """Take in a PC; returns the job's number in the ledger.

    Raises:
        Refused: the card has no title, or its label is already another job's.
    """
    checked = _checked(ledger, card, None)
    return stored.add_job(ledger, checked, facts, now())


def rewrite_card(ledger: Ledger, job: Job, card: Card, facts: Facts) -> None:
    """Write a job's card and facts anew. Raises like ``take_in``."""
    stored.change_job(ledger, job.number, _checked(ledger, card, job.number), facts)


def _checked(ledger: Ledger, card: Card, number: int | None) -> Card:
    trimmed = Card(
        card.label.strip(), card.title.strip(), card.owner.strip(), card.complaint.strip()
    )
    if not trimmed.title:
        raise Refused("Give the PC a name, such as “Ticket-desk PC”: it heads the book.")
    jobs = stored.all_jobs(ledger)
    if not trimmed.label:
        trimmed = replace(trimmed, label=_next_label(jobs))
    for job in jobs:
        if job.card.label == trimmed.label and job.number != number:
            raise Refused(
                f"Label {trimmed.label} is already on {job.card.title}. Choose another label."
            )
    return trimmed


def _next_label(jobs: tuple[Job, ...]) -> str:
    used = [int(job.card.label) for job in jobs if job.card.label.isdigit()]
    return f"{max(used, default=0) + 1:04d}"


def find_job(ledger: Ledger, label: str) -> Job:
    """The job with this label on it.

    Raises:
        Refused: there is none.
    """
    jobs = stored.all_jobs(ledger)
    for job in jobs:
        if job.card.label == label:
            return job
    known = ", ".join(job.card.label for job in jobs[:10]) or "none yet"
    raise Refused(f"No job has the label {label}. Labels in this ledger: {known}.")


def facts_of_this_pc() -> Facts:
    """What this PC has."""
    from plucky_ledger.capture import facts as captured
    from plucky_ledger.exchange.boots import facts_from

    return facts_from(captured.facts_of_this_pc())
