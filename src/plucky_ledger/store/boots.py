"""Reading and writing boots and their recordings, within a session."""

import hashlib
from collections.abc import Iterable, Mapping, Sequence
from operator import attrgetter

from sqlalchemy import func, select, text
from sqlalchemy.orm import Session

from plucky_ledger.core.boots.boot import Boot, Context, How
from plucky_ledger.core.boots.marks import Mark
from plucky_ledger.core.values.measures import Measure, Reading, is_sensible
from plucky_ledger.store.columns import (
    as_json,
    existing,
    from_json,
    instant,
    kept,
    plain_text,
    rows_of,
)
from plucky_ledger.store.tables.jobs import BootRow, RecordingRow


def boots_of_jobs(session: Session, jobs: Sequence[int]) -> Iterable[BootRow]:
    """Rows of all boots of some jobs, in the order in which they started."""
    boots = BootRow.__table__
    rows = rows_of(session, BootRow, select(boots).where(boots.c.job.in_(jobs)))
    # Here, because a server orders texts as its country does.
    return sorted(rows, key=attrgetter("started_at", "number"))


def add_boot(
    session: Session,
    job: int,
    posting: int | None,
    boot: Boot,
    boot_id: str = "",
    recording: bytes | None = None,
) -> int:
    """Add a boot to a round, with the bytes of its recording if it has one. Returns its number."""
    digest = hashlib.sha256(recording).hexdigest() if recording is not None else None
    if recording is not None and digest is not None:
        keep_recording(session, digest, recording)
    row = BootRow(job=job, posting=posting, boot_id=boot_id, recording=digest, **_fields(boot))
    session.add(row)
    session.flush()
    return row.number


def keep_recording(session: Session, digest: str, recording: bytes) -> None:
    """Keep the bytes of a recording, whose SHA-256 is ``digest``, unless they are there."""
    if session.get(RecordingRow, digest) is None:
        session.add(RecordingRow(digest=digest, data=recording))


def write_boot(session: Session, boot: Boot) -> None:
    """Write a boot anew: corrected marks, other figures, set aside or brought back."""
    row = existing(session, BootRow, boot.number)
    for name, value in _fields(boot).items():
        setattr(row, name, value)


def move_boots(session: Session, boots: Iterable[Boot], posting: int) -> None:
    """Boots into the round of another posting."""
    for boot in boots:
        existing(session, BootRow, boot.number).posting = posting


def find_boot(session: Session, job: int, boot_id: str) -> Boot | None:
    """The boot of a job with this boot id, if it is in the book already."""
    if not boot_id:
        return None
    row = session.scalar(select(BootRow).where(BootRow.job == job, BootRow.boot_id == boot_id))
    return boot_from(row) if row else None


def jobs_of_boots(session: Session, boot_ids: Iterable[str]) -> Mapping[str, Sequence[int]]:
    """Numbers of the jobs that have a boot of each of these ids, the newest job first."""
    wanted = select(BootRow.boot_id, BootRow.job).where(BootRow.boot_id.in_(set(boot_ids) - {""}))
    found: dict[str, list[int]] = {}
    for boot_id, job in session.execute(wanted.order_by(BootRow.job.desc())):
        found.setdefault(boot_id, []).append(job)
    return found


def recording_of(session: Session, boot: int) -> bytes | None:
    """Bytes of a boot's recording; None for a boot without one."""
    row = session.execute(
        select(RecordingRow.data, RecordingRow.more)
        .join(BootRow, BootRow.recording == RecordingRow.digest)
        .where(BootRow.number == boot)
    ).one_or_none()
    return row.data + (row.more or b"") if row is not None else None


def add_to_recording(session: Session, boot: int, recording: bytes) -> bool:
    """Add what was written to a boot's recording since it came into the book; False where that is
    nothing, or another recording.
    """
    row = session.scalar(
        select(RecordingRow)
        .join(BootRow, BootRow.recording == RecordingRow.digest)
        .where(BootRow.number == boot)
    )
    known = len(row.data) + len(row.more or b"") if row is not None else 0
    if row is None or len(recording) <= known or not recording.startswith(row.data):
        return False
    row.more = recording[len(row.data) :]
    return True


def jobs_of_older_methods(session: Session, method: int) -> Sequence[int]:
    """Numbers of the jobs that have boots whose figures come from a method before this one."""
    # In plain SQL: every command asks, and composing a statement takes longer than its answer.
    older = text("SELECT DISTINCT job FROM boots WHERE method < :method ORDER BY job DESC")
    return session.execute(older, {"method": method}).scalars().all()


def count_boots(session: Session) -> int:
    """How many boots there are in all jobs."""
    return session.scalar(select(func.count()).select_from(BootRow)) or 0


def count_recordings(session: Session) -> int:
    """How many recordings the ledger keeps, undone ones included."""
    return session.scalar(select(func.count()).select_from(RecordingRow)) or 0


@kept()
def boot_from(row: BootRow) -> Boot:
    """A row as the core knows it. Raises LedgerFault where it is damaged."""
    marks = from_json(row.marks, dict[Mark, float])
    if not all(map(is_sensible, marks.values())):
        raise ValueError("a mark beyond all measure")
    return Boot(
        number=row.number,
        started_at=instant(row.started_at),
        how=How(row.how),
        marks=marks,
        readings=from_json(row.readings, dict[Measure, Reading]),
        context=from_json(row.context, Context),
        set_aside=plain_text(row.set_aside),
        cut_short=row.cut_short,
        method=row.method,
        uuid=row.uuid,
    )


def _fields(boot: Boot) -> dict[str, object]:
    return {
        "started_at": boot.started_at.isoformat(),
        "how": boot.how.value,
        "marks": as_json(dict(boot.marks)),
        "readings": as_json(boot.readings),
        "context": as_json(boot.context),
        "set_aside": boot.set_aside,
        "cut_short": boot.cut_short,
        "method": boot.method,
    }
