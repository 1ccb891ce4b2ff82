"""Reading and writing jobs and postings, within a session."""

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from datetime import datetime
from typing import TYPE_CHECKING

from sqlalchemy import select
from sqlalchemy.orm import Session

from plucky_ledger.core.boots.boot import Boot
from plucky_ledger.core.job.advised import Advised
from plucky_ledger.core.job.changes import Change
from plucky_ledger.core.job.job import Card, Job, Turns
from plucky_ledger.core.job.postings import Posting
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.pc.which import WhichPc
from plucky_ledger.core.values.estimates import Estimate
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.core.values.trouble import TroubleCode
from plucky_ledger.store.boots import boot_from, boots_of_jobs
from plucky_ledger.store.columns import (
    as_json,
    existing,
    from_json,
    instant,
    kept,
    plain_text,
    rows_of,
)
from plucky_ledger.store.errors import LedgerFault
from plucky_ledger.store.tables.base import new_uuid
from plucky_ledger.store.tables.jobs import JobRow, PostingRow

if TYPE_CHECKING:
    from plucky_ledger.core.pc.condition import Inspected

Rounds = Mapping[int | None, Sequence[Boot]]
"""Boots by the posting they belong to; None for the opening round."""


def read_jobs(session: Session) -> tuple[Job, ...]:
    """Every job with its postings and boots, newest first, in three questions."""
    jobs = JobRow.__table__
    rows = rows_of(session, JobRow, select(jobs).order_by(jobs.c.number.desc()))
    return _with_rounds(session, rows)


def read_job(session: Session, number: int) -> Job:
    """One job.

    Raises:
        LedgerFault: there is no such job.
    """
    row = session.get(JobRow, number)
    if row is None:
        raise LedgerFault(TroubleCode.NO_SUCH_JOB, number=number)
    return _with_rounds(session, [row])[0]


def labels(session: Session) -> dict[str, tuple[int, str]]:
    """Number and title of every job, by its label."""
    rows = session.execute(select(JobRow.label, JobRow.number, JobRow.title)).all()
    return {label: (number, title) for label, number, title in rows}


def jobs_of_pcs(session: Session) -> dict[WhichPc, tuple[int, str]]:
    """Number and title of the newest job about each PC."""
    rows = session.execute(select(JobRow.pc, JobRow.number, JobRow.title).order_by(JobRow.number))
    return {from_json(pc, WhichPc): (number, title) for pc, number, title in rows}


def add_job(session: Session, card: Card, facts: Facts, pc: WhichPc, taken_in_at: datetime) -> int:
    """Take in a job; returns its number."""
    row = JobRow(
        **_card(card), facts=as_json(facts), pc=as_json(pc), taken_in_at=taken_in_at.isoformat()
    )
    session.add(row)
    session.flush()
    return row.number


def write_job(session: Session, job: Job) -> None:
    """Write a job's card, facts and which PC it is about anew."""
    row = existing(session, JobRow, job.number)
    for name, value in _card(job.card).items():
        setattr(row, name, value)
    row.facts = as_json(job.facts)
    row.pc = as_json(job.pc)
    row.turns = as_json(job.turns) if job.turns is not None else ""
    row.advised = as_json(job.advised)
    row.inspected = as_json(job.inspected) if job.inspected is not None else ""


def _card(card: Card) -> dict[str, str]:
    return {
        "label": card.label,
        "title": card.title,
        "owner": card.owner,
        "complaint": card.complaint,
    }


def write_posting(session: Session, job_number: int, posting: Posting) -> int:
    """Write a posting, new when its number is 0; its boots are not touched. Returns its number."""
    if posting.number:
        row = existing(session, PostingRow, posting.number)
    else:
        row = PostingRow(job=job_number, title="", changes="[]", posted_in_boot="")
        row.uuid = posting.uuid or new_uuid()
        session.add(row)
    row.title = posting.title
    row.posted_at = posting.posted_at.isoformat() if posting.posted_at else None
    row.posted_in_boot = posting.posted_in_boot
    row.strikes_out = posting.strikes_out
    row.changes = as_json(posting.changes)
    row.expected = as_json(posting.expected)
    row.opens_visit = posting.opens_visit
    row.series = posting.series
    session.flush()
    return row.number


def remove_posting(session: Session, number: int) -> None:
    """Remove a posting that is only pencilled."""
    session.delete(existing(session, PostingRow, number))
    session.flush()


def _with_rounds(session: Session, rows: Sequence[JobRow]) -> tuple[Job, ...]:
    numbers = [row.number for row in rows]
    rounds: dict[int, dict[int | None, list[Boot]]] = defaultdict(lambda: defaultdict(list))
    for boot in boots_of_jobs(session, numbers):
        rounds[boot.job][boot.posting].append(boot_from(boot))
    postings: dict[int, list[PostingRow]] = defaultdict(list)
    table = PostingRow.__table__
    by_number = select(table).where(table.c.job.in_(numbers)).order_by(table.c.number)
    for posting in rows_of(session, PostingRow, by_number):
        postings[posting.job].append(posting)
    return tuple(_job(row, postings[row.number], rounds[row.number]) for row in rows)


@kept()
def card_from(row: JobRow) -> Job:
    """A job without its postings and boots. Raises LedgerFault where it is damaged."""
    return Job(
        number=row.number,
        card=Card(*map(plain_text, (row.label, row.title, row.owner, row.complaint))),
        facts=from_json(row.facts, Facts),
        taken_in_at=instant(row.taken_in_at),
        pc=from_json(row.pc, WhichPc),
        uuid=plain_text(row.uuid),
        turns=from_json(row.turns, Turns) if row.turns else None,
        advised=from_json(row.advised, tuple[Advised, ...]),
        inspected=_inspected(row.inspected) if row.inspected else None,
    )


def _job(row: JobRow, postings: Iterable[PostingRow], rounds: Rounds) -> Job:
    return replace(
        card_from(row),
        opening_boots=tuple(rounds.get(None, ())),
        postings=tuple(posting_from(posting, rounds) for posting in postings),
    )


@kept()
def posting_from(row: PostingRow, rounds: Rounds) -> Posting:
    """A posting with its boots. Raises LedgerFault where it is damaged."""
    return Posting(
        number=row.number,
        changes=from_json(row.changes, tuple[Change, ...]),
        title=plain_text(row.title),
        posted_at=instant(row.posted_at) if row.posted_at else None,
        posted_in_boot=plain_text(row.posted_in_boot),
        strikes_out=row.strikes_out,
        boots=tuple(rounds.get(row.number, ())),
        uuid=row.uuid,
        expected=from_json(row.expected, dict[Measure, Estimate]),
        opens_visit=bool(row.opens_visit),
        series=plain_text(row.series),
    )


def _inspected(text: str) -> "Inspected":
    from plucky_ledger.core.pc.condition import Inspected

    return from_json(text, Inspected)
