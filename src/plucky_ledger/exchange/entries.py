"""From the lines of a recording to startup entries; without the numerics, for a bare install."""

import io
from collections.abc import Sequence
from typing import TypeVar

import msgspec

from plucky_ledger.core.entries.entry import EntryKind, EntryOwner, StartupEntry
from plucky_ledger.core.entries.sources import SourceLooked, StartSource
from plucky_ledger.core.values.reasons import quoted
from plucky_ledger.exchange.names import ENTRY_KINDS, OWNERS, reason_from
from plucky_ledger.recording.lines import EntryLine
from plucky_ledger.recording.reader import Recording, read_recording

SOURCES = {source.value: source for source in StartSource}
L = TypeVar("L", bound=msgspec.Struct)


def entries_from_bytes(data: bytes) -> tuple[StartupEntry, ...]:
    """Only the startup entries that a recording lists. Raises RecordingFault."""
    return entries_from(read_recording(io.BytesIO(data)))


def sources_from_bytes(data: bytes) -> tuple[SourceLooked, ...]:
    """Only where was looked for entries. Raises RecordingFault."""
    return sources_from(read_recording(io.BytesIO(data)))


def entries_from(recording: Recording) -> tuple[StartupEntry, ...]:
    """The startup entries that a recording lists, each as it was told last."""
    return tuple(_entry(line) for line in newest(recording.entries, "entry"))


def sources_from(recording: Recording) -> tuple[SourceLooked, ...]:
    """Where the recorder looked for them besides the service managers."""
    return tuple(
        SourceLooked(
            source=SOURCES.get(line.source, StartSource.UNKNOWN),
            files=line.files,
            entries=line.entries,
            refused=line.refused,
        )
        for line in newest(recording.sources, "source")
    )


def newest(lines: Sequence[L], name: str) -> list[L]:
    """Of lines about the same thing the last: what is asked again is known better."""
    return list({getattr(line, name): line for line in lines}.values())


def _entry(line: EntryLine) -> StartupEntry:
    old = quoted(line.off_because) if line.off_because else None
    old_schedule = (quoted(line.schedule),) if line.schedule else ()
    return StartupEntry(
        entry_id=line.entry,
        name=line.name,
        owner=OWNERS.get(line.owner, EntryOwner.UNKNOWN),
        kind=ENTRY_KINDS.get(line.starts, EntryKind.UNKNOWN),
        origin=line.origin,
        command=line.command,
        part_of_system=line.part_of_system,
        guarded=line.guarded,
        left_behind=line.left_behind,
        group=line.group,
        off_because=reason_from(line.off) if line.off else old,
        executable=line.executable,
        package=line.package,
        description=line.description,
        file_state=line.file_state,
        beside=line.beside,
        drop_ins=line.drop_ins,
        schedule=tuple(reason_from(timer) for timer in line.timers) or old_schedule,
    )
