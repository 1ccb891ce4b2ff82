"""A job as one file: written, and taken in as a new job or into the same one of this ledger."""

import json
import logging
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass, replace
from hashlib import sha256
from pathlib import Path

from sqlalchemy.exc import IntegrityError, ProgrammingError
from sqlalchemy.orm import Session

from plucky_ledger.core.job.inventory import inventory_of
from plucky_ledger.core.job.job import Card
from plucky_ledger.core.job.merging import merge_jobs
from plucky_ledger.core.job.parts import (
    Conflict,
    Merged,
    Part,
    Side,
    canonical,
    of_kind,
)
from plucky_ledger.core.values.steps import StepCode
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.exchange.boots import boot_from_bytes
from plucky_ledger.exchange.job_file import JobFile, job_file_bytes, read_job_file
from plucky_ledger.exchange.saving import save_file
from plucky_ledger.recording.reader import RecordingFault
from plucky_ledger.store import boots as stored_boots
from plucky_ledger.store import entries as stored_entries
from plucky_ledger.store import jobs as stored
from plucky_ledger.store.decisions import asides, decisions
from plucky_ledger.store.errors import LedgerFault
from plucky_ledger.store.job_parts import job_named, name_of_job, parts_of
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.store.part_types import BOOT, CARD, check
from plucky_ledger.store.undo import step
from plucky_ledger.store.writing_parts import add_job_of_parts, write_parts
from plucky_ledger.usecases.jobs.jobs import free_label

__all__ = [
    "Conflict",
    "Incoming",
    "Side",
    "TakenInJob",
    "export_job",
    "look_into",
    "take_in_file",
]
log = logging.getLogger(__name__)


@dataclass(frozen=True)
class Incoming:
    """A file that was looked into."""

    name: str
    file: JobFile
    job: int | None
    """Number of the same job here; None where this ledger does not have it."""
    merged: Merged | None
    """What taking it in would come to; None for a new job."""

    @property
    def card(self) -> Card:
        """Whose PC the file is about."""
        return _card(self.file.parts)

    @property
    def conflicts(self) -> tuple[Conflict, ...]:
        """What both changed."""
        return self.merged.conflicts if self.merged is not None else ()

    @property
    def brings(self) -> int:
        """How many things are new or newer in it than here."""
        return len(self.merged.taken) if self.merged is not None else len(self.file.parts)


@dataclass(frozen=True)
class TakenInJob:
    """What came of a file."""

    job: int
    """Number of the job."""
    brought: int | None
    """How many things were new or newer in it; None for a new job."""


def export_job(ledger: Ledger, number: int, path: Path) -> None:
    """Write a job into a file. Raises Trouble; what was there is kept."""
    save_file(job_file_bytes(job_file_of(ledger, number)), path)


def job_file_of(ledger: Ledger, number: int) -> JobFile:
    """A job as a file holds it. Raises LedgerFault."""
    with ledger.session() as session:
        parts = parts_of(session, number)
        recordings: dict[str, bytes] = {}
        for boot in stored_boots.boots_of_jobs(session, [number]):
            data = stored_boots.recording_of(session, boot.number)
            if data is None:
                continue
            digest = sha256(data).hexdigest()
            recordings[digest] = data
            identity = f"{BOOT}:{boot.boot_id or boot.uuid}"
            parts[identity] = _with_recording(parts[identity], digest)
        return JobFile(name_of_job(session, number), parts, recordings)


def look_into(ledger: Ledger, path: Path) -> Incoming:
    """Read a file and hold it against this ledger, without changing it. Raises Trouble."""
    file = read_job_file(path)
    with ledger.session() as session, _as_damaged(path.name):
        check(file.parts)
        _card(file.parts)
        number = job_named(session, file.uuid)
        merged = merge_jobs(parts_of(session, number), file.parts) if number is not None else None
    return Incoming(path.name, file, number, merged)


def take_in_file(
    ledger: Ledger, incoming: Incoming, chosen: Mapping[str, Side] | None = None
) -> TakenInJob:
    """Take a file in, as one step that can be undone.

    ``chosen`` says, by identity, which side of a conflict stays; ours without it. Where the file
    has nothing that is not here no step is taken.

    Raises:
        Refused: what is in it cannot be a job; nothing was changed.
    """
    file = incoming.file
    if incoming.job is None:
        with (
            step(ledger, StepCode.TAKE_IN, None, title=incoming.card.title) as session,
            _as_damaged(incoming.name),
        ):
            card = replace(incoming.card, label=free_label(session, incoming.card.label))
            number = add_job_of_parts(session, file.uuid, card, file.parts)
            _write(session, number, file, file.parts)
        return TakenInJob(number, None)
    if not incoming.brings and not incoming.conflicts:
        return TakenInJob(incoming.job, 0)
    with (
        step(ledger, StepCode.MERGE, incoming.job, title=incoming.card.title) as session,
        _as_damaged(incoming.name),
    ):
        ours = parts_of(session, incoming.job)
        merged = merge_jobs(ours, file.parts, chosen)
        _write(session, incoming.job, file, merged.parts)
    return TakenInJob(incoming.job, len(merged.taken))


def _write(session: Session, number: int, file: JobFile, parts: Mapping[str, Part]) -> None:
    for part in of_kind(file.parts, BOOT):
        digest = json.loads(part.derived).get("recording")
        if digest is not None:
            stored_boots.keep_recording(session, str(digest), file.recordings[digest])
    write_parts(session, number, parts)
    for boot in stored_boots.boots_of_jobs(session, [number]):
        told = file.parts.get(f"{BOOT}:{boot.boot_id or boot.uuid}")
        digest = json.loads(told.derived or "{}").get("recording") if told is not None else None
        if digest is not None:
            stored_boots.add_to_recording(session, boot.number, file.recordings[digest])
    _can_be_read(session, number)
    _keep_inventory(session, number)


def _keep_inventory(session: Session, number: int) -> None:
    """Keep what the newest recording shows to be there: the next one here is compared with it."""
    rounds = reversed(stored.read_job(session, number).rounds)
    newest_round = next(filter(None, rounds), ())
    boots = sorted(newest_round, key=lambda boot: boot.started_at, reverse=True)
    recordings = (stored_boots.recording_of(session, boot.number) for boot in boots)
    data = next(filter(None, recordings), None)
    if data is None:
        return
    try:
        recorded = boot_from_bytes(data)
    except RecordingFault as fault:
        log.warning("nothing is known of what starts there: %s", fault)
        return
    if recorded.timeline.entries:
        found = inventory_of(recorded.timeline.entries, recorded.facts, recorded.packages)
        stored_entries.write_inventory(session, number, found)


def _can_be_read(session: Session, number: int) -> None:
    """Raises LedgerFault where what was written is not what a ledger holds."""
    stored.read_job(session, number)
    decisions(session, number)
    stored_entries.typed_entries(session, number)
    asides(session, number)


def _card(parts: Mapping[str, Part]) -> Card:
    content, derived = (json.loads(text) for text in (parts[CARD].content, parts[CARD].derived))
    texts = (derived["label"], content["title"], content["owner"], content["complaint"])
    return Card(*(str(text) for text in texts))


def _with_recording(part: Part, digest: str) -> Part:
    return replace(part, derived=canonical({**json.loads(part.derived), "recording": digest}))


@contextmanager
def _as_damaged(name: str) -> Iterator[None]:
    """What a ledger would not hold is the file's fault. Raises Refused."""
    try:
        yield
    except (
        LedgerFault,
        IntegrityError,  # such as a name that is another job's here
        ProgrammingError,
        LookupError,
        TypeError,
        ValueError,
        AttributeError,
    ) as error:
        if isinstance(error, LedgerFault) and error.code is not TroubleCode.LEDGER_DAMAGED:
            raise
        log.warning("%s holds what no job has: %s", name, error)
        raise Refused(TroubleCode.JOB_FILE_DAMAGED, name=name) from error
