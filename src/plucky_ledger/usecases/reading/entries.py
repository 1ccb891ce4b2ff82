"""The startup entries a job is known to have, and what was decided about them."""

from collections.abc import Sequence

from plucky_ledger.core.boots.boot import Boot
from plucky_ledger.core.entries.decisions import Decided
from plucky_ledger.core.entries.entry import StartupEntry
from plucky_ledger.core.entries.sources import SourceLooked
from plucky_ledger.core.job.entry_states import decisions_of
from plucky_ledger.core.job.job import Job
from plucky_ledger.core.job.like_with_like import with_later_figures
from plucky_ledger.exchange.entries import entries_from_bytes, sources_from_bytes
from plucky_ledger.store.boots import recording_of
from plucky_ledger.store.decisions import decisions
from plucky_ledger.store.entries import typed_entries
from plucky_ledger.store.jobs import read_job
from plucky_ledger.store.ledger import Ledger


def typed_in(ledger: Ledger, number: int) -> tuple[StartupEntry, ...]:
    """Entries of a job that were typed in."""
    with ledger.session() as session:
        return tuple(typed_entries(session, number))


def job_with_decisions(ledger: Ledger, number: int) -> tuple[Job, dict[str, Decided]]:
    """A job, and what was decided in it by entry id, read in one transaction."""
    with ledger.session() as session:
        job = with_later_figures(read_job(session, number))
        return job, decisions_of(job, decisions(session, number))


def entries_of_round(
    ledger: Ledger, number: int, boots: Sequence[Boot]
) -> tuple[StartupEntry, ...]:
    """Entries of a job that were typed in, and those the newest of some boots listed."""
    with ledger.session() as session:
        by_id = {entry.entry_id: entry for entry in typed_entries(session, number)}
        data = recording_of(session, boots[-1].number) if boots else None
        listed = entries_from_bytes(data) if data is not None else ()
    return tuple({**by_id, **{entry.entry_id: entry for entry in listed}}.values())


def sources_looked_at(ledger: Ledger, number: int) -> tuple[SourceLooked, ...]:
    """Where the newest recording of a job that tells looked for entries; empty where none does."""
    with ledger.session() as session:
        for boot in reversed(read_job(session, number).boots):
            data = recording_of(session, boot.number)
            if data is not None and (looked := sources_from_bytes(data)):
                return looked
    return ()


def entries_known(ledger: Ledger, number: int) -> tuple[StartupEntry, ...]:
    """Entries of a job that were typed in, and those its boots listed, as the newest tells."""
    with ledger.session() as session:
        by_id = {entry.entry_id: entry for entry in typed_entries(session, number)}
        for boot in read_job(session, number).boots:
            data = recording_of(session, boot.number)
            if data is not None:
                by_id.update({entry.entry_id: entry for entry in entries_from_bytes(data)})
    return tuple(by_id.values())
