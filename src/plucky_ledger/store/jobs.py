"""Reading and writing jobs, postings and boots."""

import hashlib
from collections.abc import Iterable
from datetime import datetime
from typing import TypeVar

import msgspec
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from plucky_ledger.core.book.job import Card, Change, Job, Posting
from plucky_ledger.core.boots.boot import Boot, Context, How
from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.core.measures import Measure, Reading
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.store.errors import LedgerFault
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.tables import BootRow, JobRow, PostingRow, RecordingRow
from plucky_ledger.store.undo import step

T = TypeVar("T")


def all_jobs(ledger: Ledger) -> tuple[Job, ...]:
    """Every job with its postings and boots, newest first."""
    with ledger.session() as session:
        rows = session.scalars(select(JobRow).order_by(JobRow.number.desc())).all()
        return tuple(_job(session, row) for row in rows)


def job(ledger: Ledger, number: int) -> Job:
    """One job.

    Raises:
        LedgerFault: there is no such job.
    """
    with ledger.session() as session:
        row = session.get(JobRow, number)
        if row is None:
            raise LedgerFault(f"There is no job number {number} in {ledger.path}.")
        return _job(session, row)


def add_job(ledger: Ledger, card: Card, facts: Facts, taken_in_at: datetime) -> int:
    """Take in a job; returns its number."""
    with step(ledger, f"take in {card.title}", None) as session:
        row = JobRow(**_card(card), facts=as_json(facts), taken_in_at=taken_in_at.isoformat())
        session.add(row)
        session.flush()
        return row.number


def change_job(ledger: Ledger, number: int, card: Card, facts: Facts) -> None:
    """Write a job's card and facts anew."""
    with step(ledger, f"change the card of {card.title}", number) as session:
        row = existing(session, JobRow, number)
        for name, value in _card(card).items():
            setattr(row, name, value)
        row.facts = as_json(facts)


def _card(card: Card) -> dict[str, str]:
    return {
        "label": card.label,
        "title": card.title,
        "owner": card.owner,
        "complaint": card.complaint,
    }


def put_posting(ledger: Ledger, label: str, job_number: int, posting: Posting) -> int:
    """Write a posting, new when its number is 0; its boots are not touched. Returns its number."""
    with step(ledger, label, job_number) as session:
        return write_posting(session, job_number, posting)


def write_posting(session: Session, job_number: int, posting: Posting) -> int:
    """The same as part of a larger step."""
    if posting.number:
        row = existing(session, PostingRow, posting.number)
    else:
        row = PostingRow(job=job_number, title="", changes="[]")
        session.add(row)
    row.title = posting.title
    row.posted_at = posting.posted_at.isoformat() if posting.posted_at else None
    row.strikes_out = posting.strikes_out
    row.changes = as_json(posting.changes)
    session.flush()
    return row.number


def remove_posting(ledger: Ledger, label: str, job_number: int, number: int) -> None:
    """Remove a posting that is only pencilled."""
    with step(ledger, label, job_number) as session:
        session.delete(existing(session, PostingRow, number))


def add_boot(
    ledger: Ledger,
    job_number: int,
    posting: int | None,
    boot: Boot,
    boot_id: str = "",
    recording: bytes | None = None,
) -> int:
    """Add a boot to a round, with the bytes of its recording if it has one. Returns its number."""
    digest = hashlib.sha256(recording).hexdigest() if recording is not None else None
    with step(ledger, f"add a boot {boot.how}", job_number) as session:
        if recording is not None and session.get(RecordingRow, digest) is None:
            session.add(RecordingRow(digest=digest, data=recording))
        row = BootRow(
            job=job_number, posting=posting, boot_id=boot_id, recording=digest, **_boot_fields(boot)
        )
        session.add(row)
        session.flush()
        return row.number


def change_boot(ledger: Ledger, label: str, job_number: int, boot: Boot) -> None:
    """Write a boot anew: corrected marks, or set aside and brought back."""
    with step(ledger, label, job_number) as session:
        write_boot(session, boot)


def write_boot(session: Session, boot: Boot) -> None:
    """The same as part of a larger step."""
    row = existing(session, BootRow, boot.number)
    for name, value in _boot_fields(boot).items():
        setattr(row, name, value)


def find_boot(ledger: Ledger, job_number: int, boot_id: str) -> Boot | None:
    """The boot of a job with this boot id, if it is in the book already."""
    if not boot_id:
        return None
    with ledger.session() as session:
        row = session.scalar(
            select(BootRow).where(BootRow.job == job_number, BootRow.boot_id == boot_id)
        )
        return _boot(row) if row else None


def recording_of(ledger: Ledger, boot: int) -> bytes | None:
    """Bytes of a boot's recording; None for a boot without one."""
    with ledger.session() as session:
        return session.scalar(
            select(RecordingRow.data)
            .join(BootRow, BootRow.recording == RecordingRow.digest)
            .where(BootRow.number == boot)
        )


def count_recordings(ledger: Ledger) -> int:
    """How many recordings the ledger keeps, undone ones included."""
    with ledger.session() as session:
        return session.scalar(select(func.count()).select_from(RecordingRow)) or 0


def existing(session: Session, kind: type[T], number: int) -> T:
    """A row that has to be there. Raises LedgerFault when it is not."""
    row = session.get(kind, number)
    if row is None:
        raise LedgerFault(
            "What was to be changed is no longer in the ledger: it may have been undone. "
            "Nothing was changed."
        )
    return row


def _job(session: Session, row: JobRow) -> Job:
    boots = session.scalars(
        select(BootRow).where(BootRow.job == row.number).order_by(BootRow.started_at)
    ).all()
    postings = session.scalars(
        select(PostingRow).where(PostingRow.job == row.number).order_by(PostingRow.number)
    ).all()
    return Job(
        number=row.number,
        card=Card(row.label, row.title, row.owner, row.complaint),
        facts=from_json(row.facts, Facts),
        taken_in_at=datetime.fromisoformat(row.taken_in_at),
        opening_boots=_round(boots, None),
        postings=tuple(_posting(posting, boots) for posting in postings),
    )


def _posting(row: PostingRow, boots: Iterable[BootRow]) -> Posting:
    return Posting(
        number=row.number,
        changes=from_json(row.changes, tuple[Change, ...]),
        title=row.title,
        posted_at=datetime.fromisoformat(row.posted_at) if row.posted_at else None,
        strikes_out=row.strikes_out,
        boots=_round(boots, row.number),
    )


def _round(boots: Iterable[BootRow], posting: int | None) -> tuple[Boot, ...]:
    return tuple(_boot(row) for row in boots if row.posting == posting)


def _boot(row: BootRow) -> Boot:
    return Boot(
        number=row.number,
        started_at=datetime.fromisoformat(row.started_at),
        how=How(row.how),
        marks=from_json(row.marks, dict[Mark, float]),
        readings=from_json(row.readings, dict[Measure, Reading]),
        context=from_json(row.context, Context),
        set_aside=row.set_aside,
        cut_short=row.cut_short,
    )


def _boot_fields(boot: Boot) -> dict[str, object]:
    return {
        "started_at": boot.started_at.isoformat(),
        "how": str(boot.how),
        "marks": as_json(dict(boot.marks)),
        "readings": as_json(boot.readings),
        "context": as_json(boot.context),
        "set_aside": boot.set_aside,
        "cut_short": boot.cut_short,
    }


def as_json(value: object) -> str:
    """A value of the core as it is kept in a column."""
    return msgspec.json.encode(value).decode()


def from_json(text: str, kind: type[T]) -> T:
    """The other way round."""
    return msgspec.json.decode(text, type=kind)
